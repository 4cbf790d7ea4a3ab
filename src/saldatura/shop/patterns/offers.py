"""Which patterns may be the pack on the counter: by what is typed of it, and by what its label says."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey, Pack, Value
from saldatura.shop.patterns import words

# Labels round: volts agree within half a cell, ampere-hours within a sixth.
AH_WITHIN = 0.17
MOST_OFFERED = 6
# What a match of each kind is worth against the others.
WORTH_WORD, WORTH_VOLTS, WORTH_AH, WORTH_CONTACTS, WORTH_CHEMISTRY = 3.0, 2.0, 1.5, 1.0, 1.0


@dataclass(frozen=True)
class Asked:
    """What is known at the counter: words of its name, volts and ampere-hours of its label, contacts outside."""

    text: str = ""
    volts: float | None = None
    ah: float | None = None
    contacts: int | None = None
    chemistry: ChemistryKey | None = None

    @property
    def words(self) -> list[str]:
        return [word for word in self.text.casefold().split() if len(word) > 1]


@dataclass(frozen=True)
class Known:
    """What an offer goes by of a pattern."""

    id: int
    title: str
    words: str
    pack: Pack
    label_v: float | None
    label_ah: float | None
    contacts: int
    jobs: int


class PatternOffer(Value):
    """A pattern offered, and why."""

    id: int
    title: str
    pack: Pack
    because: str
    jobs: int


def _fit(asked: Asked, known: Known) -> tuple[float, list[str]]:
    worth, because = 0.0, list[str]()
    # A word that is being typed fits by its beginning.
    held = known.words.split()
    hits = [word for word in asked.words if any(h.startswith(word) for h in held)]
    if asked.words and not hits:
        worth -= WORTH_WORD
    if hits:
        worth += WORTH_WORD * len(hits) / len(asked.words)
        because.append(words.named_alike())
    window = WINDOWS[known.pack.chemistry]
    if asked.volts is not None:
        labels = (
            [known.label_v] if known.label_v else [v * known.pack.in_string for v in (window.nominal_v, window.full_v)]
        )
        if any(abs(asked.volts - v) < window.nominal_v / 2 for v in labels):
            worth += WORTH_VOLTS
            because.append(words.volts_fit(asked.volts))
        else:
            worth -= 2 * WORTH_VOLTS
    if asked.ah is not None:
        ah = known.label_ah or known.pack.whole_ah
        if abs(asked.ah - ah) <= AH_WITHIN * ah:
            worth += WORTH_AH
            because.append(words.ah_fit(asked.ah))
        else:
            worth -= WORTH_AH
    if asked.contacts is not None and known.contacts:
        fits = asked.contacts == known.contacts
        worth += WORTH_CONTACTS if fits else -WORTH_CONTACTS
        if fits:
            because.append(words.contacts_fit(asked.contacts))
    if asked.chemistry is not None:
        same = WINDOWS[asked.chemistry].full_v == window.full_v and WINDOWS[asked.chemistry].family == window.family
        worth += WORTH_CHEMISTRY / 2 if same else -2 * WORTH_CHEMISTRY
    return worth, because


def offers(asked: Asked, known: Iterable[Known]) -> list[PatternOffer]:
    """The patterns that fit, the best first; of equals the one of which more packs were here. None where nothing is asked."""
    found = [(worth, of, because) for of in known for worth, because in [_fit(asked, of)] if because and worth > 0]
    found.sort(key=lambda pair: (-pair[0], -pair[1].jobs, pair[1].title))
    return [
        PatternOffer(id=of.id, title=of.title, pack=of.pack, because=_sentence(because), jobs=of.jobs)
        for _, of, because in found[:MOST_OFFERED]
    ]


def _sentence(because: Sequence[str]) -> str:
    return ", ".join(because)

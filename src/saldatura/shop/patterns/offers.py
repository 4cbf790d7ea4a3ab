"""Which patterns may be the pack on the counter: by what is typed of it, and by what its label says."""

from collections.abc import Iterable
from dataclasses import dataclass
from heapq import nsmallest
from typing import Literal

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey, Pack, Value
from saldatura.shop.patterns import words

# Labels round: volts agree within half a cell, ampere-hours within a sixth.
AH_WITHIN = 0.17
MOST_OFFERED = 6
# What a match of each kind is worth against the others.
WORTH_WORD, WORTH_VOLTS, WORTH_AH, WORTH_CONTACTS, WORTH_CHEMISTRY = 3.0, 2.0, 1.5, 1.0, 1.0


Fits = Literal["name", "volts", "ah", "contacts"]


@dataclass(frozen=True)
class Asked:
    """What is known at the counter: words of its name, volts and ampere-hours of its label, contacts outside."""

    text: str = ""
    volts: float | None = None
    ah: float | None = None
    contacts: int | None = None
    chemistry: ChemistryKey | None = None


@dataclass(frozen=True)
class Known:
    """What an offer goes by of a pattern: its words, the volts that its label may say, its Ah and its contacts."""

    id: int
    title: str
    words: tuple[str, ...]
    pack: Pack
    volts: tuple[float, ...]
    ah: float
    contacts: int
    jobs: int


def known_by(
    number: int,
    title: str,
    words: str,
    pack: Pack,
    label_v: float | None,
    label_ah: float | None,
    contacts: int,
    jobs: int,
) -> Known:
    """A pattern as offers go by it. A label that is not told may say what such cells have nominally, or full."""
    window = WINDOWS[pack.chemistry]
    volts = (label_v,) if label_v else (window.nominal_v * pack.in_string, window.full_v * pack.in_string)
    return Known(
        number, title, tuple(dict.fromkeys(words.split())), pack, volts, label_ah or pack.whole_ah, contacts, jobs
    )


class PatternOffer(Value):
    """A pattern offered, and why."""

    id: int
    title: str
    pack: Pack
    because: str
    jobs: int


def _fit(asked: Asked, typed: list[str], known: Known) -> tuple[float, list[Fits]]:
    worth, fits = 0.0, list[Fits]()
    if typed:
        # A word that is being typed fits by its beginning.
        hits = 0
        for word in typed:
            for held in known.words:
                if held.startswith(word):
                    hits += 1
                    break
        worth += WORTH_WORD * hits / len(typed) if hits else -WORTH_WORD
        if hits:
            fits.append("name")
    window = WINDOWS[known.pack.chemistry]
    if asked.volts is not None:
        half = window.nominal_v / 2
        close = min(abs(asked.volts - volts) for volts in known.volts) < half
        worth += WORTH_VOLTS if close else -2 * WORTH_VOLTS
        if close:
            fits.append("volts")
    if asked.ah is not None:
        close = abs(asked.ah - known.ah) <= AH_WITHIN * known.ah
        worth += WORTH_AH if close else -WORTH_AH
        if close:
            fits.append("ah")
    if asked.contacts is not None and known.contacts:
        same = asked.contacts == known.contacts
        worth += WORTH_CONTACTS if same else -WORTH_CONTACTS
        if same:
            fits.append("contacts")
    if asked.chemistry is not None:
        other = WINDOWS[asked.chemistry]
        alike = other.full_v == window.full_v and other.family == window.family
        worth += WORTH_CHEMISTRY / 2 if alike else -2 * WORTH_CHEMISTRY
    return worth, fits


def offers(asked: Asked, known: Iterable[Known]) -> list[PatternOffer]:
    """The patterns that fit, the best first; of equals the one of which more packs were here. None where nothing is asked."""
    typed = [word for word in asked.text.casefold().split() if len(word) > 1]
    found = [
        (worth, candidate, fits)
        for candidate in known
        for worth, fits in [_fit(asked, typed, candidate)]
        if fits and worth > 0
    ]
    best = nsmallest(MOST_OFFERED, found, key=lambda pair: (-pair[0], -pair[1].jobs, pair[1].title))
    return [
        PatternOffer(
            id=candidate.id,
            title=candidate.title,
            pack=candidate.pack,
            because=", ".join(_because(asked, one) for one in fits),
            jobs=candidate.jobs,
        )
        for _, candidate, fits in best
    ]


def _because(asked: Asked, fits: Fits) -> str:
    match fits:
        case "name":
            return words.named_alike()
        case "volts":
            return words.volts_fit(asked.volts or 0.0)
        case "ah":
            return words.ah_fit(asked.ah or 0.0)
    return words.contacts_fit(asked.contacts or 0)

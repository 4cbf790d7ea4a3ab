"""The `verdict` computation: what is wrong with a string, in sentences, and the reading that would settle it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.core.balance import Balance, BalanceRequest, RestedGroup, balance
from saldatura.core.chemistry import WINDOWS, Window, curves_for, is_flat
from saldatura.core.hazard import HazardRequest, hazard, in_scope
from saldatura.core.level import refusal
from saldatura.core.quantities import GroupReading, Point, groups_words, volts_words, words_for
from saldatura.core.reconcile import Finding, Reconciled, WrongReading, reconcile_pack
from saldatura.core.reconcile.beliefs import may_be_overcharged
from saldatura.core.verdict import words
from saldatura.core.verdict.hang import hang
from saldatura.core.verdict.types import (
    Barred,
    GroupState,
    HangingGroup,
    Verdict,
    VerdictKind,
    VerdictRequest,
)

MOST_REASONS = 3
STRUCTURAL = ("open_tap", "swapped_taps", "shifted_connector")
SLIPPED = "Every reading is off by the same slip"
MISREAD = ("wrong_reading", "reversed_probes")


def verdict(request: VerdictRequest) -> Verdict:
    """Judge the readings of a string. Raises Impossible for a tap or group the pack does not have, and for a pack above
    the voltage limit.
    """
    in_scope(request.pack)
    return verdict_on(request, reconcile_pack(request.pack, request.meter, request.readings))


def verdict_on(request: VerdictRequest, solved: Reconciled) -> Verdict:
    """The same from readings that are reconciled already."""
    window = WINDOWS[request.pack.chemistry]
    plumb, groups = hang(request.pack, request.meter, solved)
    case = _Case(request, solved, window, groups, plumb, _balance(request, groups))
    ruling = next(found for rule in _RULES if (found := rule(case)) is not None)
    said = [*ruling.reasons, *_beside(case, ruling)]
    said = list(dict.fromkeys(s for s in said if s))
    costs = ruling.kind in ("imbalanced", "sound", "output_open", "terminals_differ") and case.tells
    balanced = case.balanced
    return Verdict(
        kind=ruling.kind,
        headline=ruling.headline,
        reasons=said[:MOST_REASONS],
        more=said[MOST_REASONS:],
        charger=words.charger_says(balanced, request) if balanced and costs else None,
        tool=words.tool_says(balanced, request) if balanced and costs else None,
        cost=words.cost_says(balanced) if balanced and costs else None,
        next_reading=ruling.next_reading or solved.next_reading,
        next_place=solved.next_place,
        settles=ruling.settles,
        plumb_v=plumb,
        groups=groups,
        balance=balanced,
        cautions=_cautions(case),
        barred=_barred(case),
        findings=solved.findings,
    )


@dataclass(frozen=True)
class _Case:
    """Everything the rules look at."""

    request: VerdictRequest
    solved: Reconciled
    window: Window
    groups: list[HangingGroup]
    plumb_v: float | None
    balanced: Balance | None

    def having(self, *states: GroupState) -> list[HangingGroup]:
        return [g for g in self.groups if g.state in states]

    def doubts(self, *kinds: str) -> list[Finding]:
        return [f for f in self.solved.findings if f.kind in kinds]

    @property
    def tells(self) -> bool:
        """Whether the voltages tell the charge, so that figures for it may be given."""
        return self.balanced is not None and self.balanced.tells

    @property
    def flat(self) -> bool:
        """Whether the curve is so flat where the groups hang that level voltages say nothing of level charge."""
        at = self.plumb_v
        return at is not None and self.window.family == "lithium" and is_flat(self.request.pack.chemistry, at)

    def read_next(self) -> str | None:
        """The next reading as an instruction."""
        point = self.solved.next_reading
        if point is None:
            return None
        where = ", on the cells' own tabs" if self.solved.next_place == "tab" else ""
        return f"Read {words_for(point)}{where}."

    def on_tabs(self, groups: Sequence[HangingGroup]) -> str:
        """A group is not condemned by a wire: the reading that rules one out."""
        whose = "its own two tabs" if len(groups) == 1 else "their own tabs"
        return f"Read {words.name_groups(groups).lower()} across {whose} once more, to rule out an open sense wire."


@dataclass(frozen=True)
class _Ruling:
    kind: VerdictKind
    headline: str
    reasons: list[str]
    settles: str | None
    next_reading: Point | None = None


def _beside(case: _Case, ruling: _Ruling) -> list[str]:
    """What is to be said beside the conclusion: doubts that touch something else, the terminals, what happened to it."""
    if ruling.headline == SLIPPED:
        return []
    said = words.symptoms_say(case.request.symptoms) if ruling.kind == "imbalanced" else []
    said += [f.because for f in case.doubts(*STRUCTURAL, *MISREAD)]
    said += [alike.because for alike in case.solved.look_alikes]
    check = case.solved.sum_check
    if check is not None:
        said.append(_terminals(case, ruling))
    elif case.doubts("pack_differs"):
        said += [f.because for f in case.doubts("pack_differs")]
    said += [words.in_doubt_says(g, case.solved, case.request.pack.chemistry) for g in case.having("in_doubt")]
    through = [g.group for g in case.solved.groups if g.through_terminals]
    if through:
        volts = case.solved.groups[through[0] - 1].volts or 0.0
        said.append(
            f"{groups_words(through)} {'is' if len(through) == 1 else 'are'} known only through the terminals, about {volts_words(volts, 1)}."
        )
    said += words.happened_says(case.request.symptoms)
    return said


def _terminals(case: _Case, ruling: _Ruling) -> str:
    check = case.solved.sum_check
    assert check is not None
    locked = case.having("reversed", "dead", "under_floor", "run_flat")
    if check.state == "off" and locked:
        return (
            f"The terminals read {volts_words(check.pack_v)}: with {words.name_groups(locked).lower()} so low the board has opened "
            "the path, as it should. That is one story, not two faults."
        )
    return check.says


def _nothing_read(case: _Case) -> _Ruling | None:
    if any(g.state != "unread" for g in case.groups):
        return None
    structural = case.doubts(*STRUCTURAL, *MISREAD)
    slip = words.scale_slip(case.request, case.window)
    if slip is not None:
        return _Ruling("readings_inconsistent", SLIPPED, [slip], "Read them again.")
    if structural:
        return _inconsistent(case)
    return _Ruling(
        "cannot_tell",
        "Nothing is settled yet",
        ["No group's voltage follows from the readings so far."],
        case.read_next(),
    )


def _overcharged(case: _Case) -> _Ruling | None:
    over = case.having("overcharged")
    if not over:
        return None
    name, full = case.window.name, case.window.full_v
    reasons = [
        f"{words.name_groups(over)} {'rests' if len(over) == 1 else 'rest'} at {words.volts_of(over)}, above the {full:.2f} V that is full for {name}."
    ]
    other = words.other_chemistry(case.request.pack.chemistry, max(g.volts or 0.0 for g in over))
    if other:
        reasons.append(other)
    worse = case.having("reversed", "dead", "under_floor", "run_flat")
    if worse:
        reasons.append(
            f"{words.name_groups(worse)} {'reads' if len(worse) == 1 else 'read'} {words.volts_of(worse)} beside it."
        )
    apart = case.having("low", "high")
    reasons += [words.off_sentence(apart, len(case.groups))] if apart else []
    return _Ruling(
        "overcharged",
        f"{words.name_groups(over)} {'stands' if len(over) == 1 else 'stand'} above full",
        reasons,
        f"Read {words.name_groups(over).lower()} on the cells' own tabs to be sure, then let {'it' if len(over) == 1 else 'them'} down over a resistor, "
        f"watched, to {full:.2f} V; charge nothing on this string before.",
    )


def _reversed_or_dead(case: _Case) -> _Ruling | None:
    bad = case.having("reversed", "dead")
    if not bad:
        return None
    reversed_, dead = case.having("reversed"), case.having("dead")
    nickel = case.window.family == "nickel"
    reasons = [
        f"{words.name_groups(reversed_)} {'reads' if len(reversed_) == 1 else 'read'} {words.volts_of(reversed_)}: driven through zero by the others."
        if reversed_
        else "",
        f"{words.name_groups(dead)} {'reads' if len(dead) == 1 else 'read'} {words.volts_of(dead)}: nothing is left in {'it' if len(dead) == 1 else 'them'}."
        if dead
        else "",
        "A nickel cell at zero may be revived once at 0.1 C and must then hold above 1.0 V for a day; one that does not is replaced."
        if nickel
        else "Not to be charged: copper may have plated through. Replace what is bad, or retire the pack.",
    ]
    apart = case.having("under_floor", "run_flat", "low", "high")
    reasons += [words.off_sentence(apart, len(case.groups))] if apart else []
    return _Ruling(
        "reversed_or_dead_group",
        f"{words.name_groups(bad)} {'is' if len(bad) == 1 else 'are'} "
        + ("reversed" if not dead else "dead" if not reversed_ else "dead or reversed"),
        reasons,
        case.on_tabs(bad),
    )


def _under_floor(case: _Case) -> _Ruling | None:
    bad = case.having("under_floor")
    if not bad:
        return None
    floor = case.window.rest_floor_v
    apart = case.having("run_flat", "low", "high")
    return _Ruling(
        "group_under_floor",
        f"{words.name_groups(bad)} {'lies' if len(bad) == 1 else 'lie'} under the floor",
        [
            f"{words.name_groups(bad)} {'rests' if len(bad) == 1 else 'rest'} at {words.volts_of(bad)}, under the floor of {floor:.2f} V for {case.window.name}.",
            "Below the floor copper may have dissolved; charging could short it from inside. There is no way past: "
            "the group is replaced, or the pack is retired.",
            words.off_sentence(apart, len(case.groups)) if apart else "",
        ],
        case.on_tabs(bad),
    )


def _run_flat(case: _Case) -> _Ruling | None:
    bad = case.having("run_flat")
    if not bad:
        return None
    apart = case.having("low", "high")
    return _Ruling(
        "run_flat",
        f"{words.name_groups(bad)} run flat",
        [
            f"{words.name_groups(bad)} {'rests' if len(bad) == 1 else 'rest'} at {words.volts_of(bad)}: run flat, above the floor of {case.window.rest_floor_v:.2f} V but below the {case.window.charge_normally_from_v:.1f} V from which {case.window.name} is charged as usual.",
            words.run_flat_next(bad, case.window),
            words.off_sentence(apart, len(case.groups)) if apart else "",
        ],
        case.on_tabs(bad),
    )


def _inconsistent(case: _Case) -> _Ruling | None:
    structural = case.doubts(*STRUCTURAL)
    if not structural and not (case.doubts(*MISREAD) and case.plumb_v is None):
        return None
    apart = case.having("low", "high")
    kind: VerdictKind = "imbalanced" if apart else "readings_inconsistent"
    headline = words.doubt_headline(structural)
    if apart:
        headline = f"{words.out_of_line(apart)}; {headline[0].lower()}{headline[1:]}"
    reasons = [f.because for f in structural]
    reasons += (
        [words.off_sentence(apart, len(case.groups))]
        if apart
        else ["No cell is called bad on this: the wires come first."]
    )
    return _Ruling(kind, headline, reasons, words.doubt_settles(structural, case.read_next()))


def _incomplete(case: _Case) -> _Ruling | None:
    unread = case.having("unread")
    if not unread:
        return None
    reasons = [f.because for f in case.doubts(*MISREAD)]
    reasons += [f.because for f in case.solved.findings if f.kind == "undetermined"]
    apart = case.having("low", "high")
    if apart:
        reasons.append(words.off_sentence(apart, len(case.groups)))
        headline = f"{words.out_of_line(apart)} so far"
    elif case.doubts(*MISREAD):
        headline = f"{words.name_groups(unread)} misread; what is settled hangs level"
    else:
        headline = "Not every group is settled"
    return _Ruling("cannot_tell", headline, reasons, case.read_next())


def _imbalanced(case: _Case) -> _Ruling | None:
    apart = case.having("low", "high")
    if not apart or (case.window.family == "lithium" and not any(_surely_apart(case, g) for g in apart)):
        return None
    reasons = [words.off_sentence(apart, len(case.groups))]
    level = case.having("level")
    if len(level) > 1:
        volts = [g.volts for g in level if g.volts is not None]
        reasons.append(
            f"The other {len(level)} hang within {words.small_volts(max(volts) - min(volts))} of one another."
        )
    if case.flat and case.window.family == "lithium":
        reasons.append("How much charge lies between them the voltage does not tell: the curve is flat there.")
    settles = (
        "The same groups under load, or after a day's rest: a weak group sags, a leaking one falls, a drifted one does "
        "neither."
    )
    if case.solved.look_alikes:
        settles = case.read_next() or settles
    return _Ruling("imbalanced", words.out_of_line(apart), reasons, settles)


def _surely_apart(case: _Case, group: HangingGroup) -> bool:
    """Whether the charge differs under every curve the cells may follow, meter and curve doubted."""
    if group.volts is None or case.plumb_v is None:
        return False
    spread = 2 * float(np.hypot(group.sigma_v or 0.0, case.window.curve_sigma_v if case.flat else 0.0))
    for curve in curves_for(case.request.pack.chemistry):
        least, most = curve.soc_ranges(
            np.array([group.volts, case.plumb_v]) - spread, np.array([group.volts, case.plumb_v]) + spread
        )
        if most[0] < least[1] or most[1] < least[0]:
            return True
    return not case.flat


def _in_doubt(case: _Case) -> _Ruling | None:
    doubtful = case.having("in_doubt")
    if not doubtful:
        return None
    return _Ruling(
        "cannot_tell",
        f"{words.name_groups(doubtful)} in doubt; the others hang level",
        [words.in_doubt_says(g, case.solved, case.request.pack.chemistry) for g in doubtful],
        case.read_next() or f"Read {words.name_groups(doubtful).lower()} again, on its own tabs.",
    )


def _voltage_says_little(case: _Case) -> _Ruling | None:
    apart = case.having("low", "high")
    beside = [words.off_sentence(apart, len(case.groups)) if apart else words.level_says(case.groups)]
    if case.window.family == "nickel":
        return _Ruling(
            "cannot_tell",
            "Rest voltage says little of nickel cells",
            [
                "No group is dead or reversed. Nickel packs are judged on the spread under load and on capacity.",
                *beside,
            ],
            "The groups under load, or a capacity test.",
        )
    if case.flat:
        return _Ruling(
            "cannot_tell",
            "Cannot tell the charge from the voltage",
            [
                "On the flat part of the curve the charge of the groups may differ widely and the voltage would hardly "
                "show it.",
                *beside,
            ],
            "The groups at the end of a charge, where the curve is steep: the first to reach full stops the charger.",
        )
    return None


def _terminals_only(case: _Case) -> _Ruling | None:
    check = case.solved.sum_check
    if check is None or check.agrees:
        return None
    level = words.level_says(case.groups)
    if check.state == "off":
        return _Ruling(
            "output_open",
            "The string hangs level; nothing reaches the terminals",
            [level, check.says],
            "The nodes of the power path, from the string outward: the fault lies between the last that has the voltage and the first that has not.",
        )
    return _Ruling(
        "terminals_differ",
        "The string hangs level; the terminals do not show it",
        [level, check.says],
        "Read the terminals again" + (", then along the power path." if check.state == "diode" else "."),
    )


def _sound(case: _Case) -> _Ruling | None:
    happened = words.happened_says(case.request.symptoms)
    reasons = [*happened, words.level_says(case.groups)]
    misread = case.doubts(*MISREAD)
    if case.solved.sum_check is not None:
        settles = "A load step: weak cells and bad joints show only under current."
    else:
        settles = "The pack terminals: their reading checks the sum."
    if misread:
        return _Ruling(
            "sound",
            "The string hangs level; one reading does not fit",
            [*reasons, misread[0].because],
            case.read_next(),
        )
    headline = "The string hangs level" if len(case.groups) > 1 else "The group is where it should be"
    return _Ruling("sound", headline, reasons, words.look_first(case.request.symptoms) or settles)


_RULES: list[Callable[[_Case], _Ruling | None]] = [
    _nothing_read,
    _overcharged,
    _reversed_or_dead,
    _under_floor,
    _run_flat,
    _inconsistent,
    _incomplete,
    _imbalanced,
    _in_doubt,
    _voltage_says_little,
    _terminals_only,
    _sound,
]


def _cautions(case: _Case) -> list[str]:
    """What can hurt the hand, said where it stands."""
    found = []
    refused = hazard(HazardRequest(pack=case.request.pack)).refused
    if refused is not None:
        found.append(refused)
    if case.having("overcharged"):
        found.append(
            "An overcharged cell can vent and burn: no charger on any group, not left alone, on a surface that does not burn."
        )
    if case.having("reversed", "dead", "under_floor"):
        found.append("A group under the floor, dead or reversed never goes on a charger, whatever it reads later.")
    if case.having("run_flat"):
        found.append(
            "A run-flat group is charged only gently, watched and timed; warm or swelling, stop and set it outside."
        )
    return found


def _barred(case: _Case) -> list[Barred]:
    """The groups that must not be charged as they stand."""
    over = case.having("overcharged")
    shown = _shown_above_full(case)
    found = []
    for g in case.groups:
        if g.group in shown and g.state != "overcharged":
            said = f"One reading of it shows {volts_words(shown[g.group])}, above full, and is set aside: read it again on its own tabs first."
            found.append(Barred(group=g.group, because=said))
            continue
        if g.volts is None or g.state == "unread":
            continue
        why = refusal(case.request.pack, g.volts)
        if why is None and g.state == "high" and case.window.family == "lithium" and g.volts > case.window.full_v:
            why = f"It stands at {volts_words(g.volts)}, full or a little above: there is nothing to charge in it."
        if why is None and g.state == "run_flat" and g.volts - 2 * (g.sigma_v or 0.0) < case.window.rest_floor_v:
            why = (
                f"It may lie under the floor of {case.window.rest_floor_v:.2f} V: it is known to ±{2 * (g.sigma_v or 0.0):.2f} V only. "
                "Read it by itself on a finer range first."
            )
        if why is None and g.state == "in_doubt":
            why = "Its readings leave more than one account of it: read it again on its own tabs first."
        if why is None and over:
            why = f"{words.name_groups(over)} {'stands' if len(over) == 1 else 'stand'} above full: nothing on this string is charged before that is brought down."
        if why is not None:
            found.append(Barred(group=g.group, because=why))
    return found


def _shown_above_full(case: _Case) -> dict[int, float]:
    """Groups of which a reading that was set aside shows more than full, and no more than a cell can show."""
    readings = case.request.readings
    aside = [readings[f.reading] for f in case.solved.findings if isinstance(f, WrongReading)]
    return {r.group: r.volts for r in aside if isinstance(r, GroupReading) and may_be_overcharged(case.window, r.volts)}


def _balance(request: VerdictRequest, groups: Sequence[HangingGroup]) -> Balance | None:
    rested = [
        RestedGroup(rest_v=g.volts, sigma_v=min(g.sigma_v or 0.0, 1.0))
        for g in groups
        if g.volts is not None and abs(g.volts) <= 10
    ]
    if len(rested) < len(groups):
        return None
    return balance(
        BalanceRequest(
            chemistry=request.pack.chemistry,
            rated_ah=request.pack.rated_ah,
            groups=rested,
            load_a=request.pack.load_a,
            resistance_ohm=request.resistance_ohm,
        )
    )

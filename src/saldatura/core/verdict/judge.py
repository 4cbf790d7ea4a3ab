"""The `verdict` computation: what is wrong with a string, in sentences, and the reading that would settle it."""

from collections.abc import Callable, Sequence
from statistics import median

from saldatura.core.balance import Balance, BalanceRequest, RestedGroup, balance
from saldatura.core.chemistry import WINDOWS, Window
from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.quantities import (
    Meter,
    Pack,
    words_for,
)
from saldatura.core.reconcile import (
    Finding,
    Reconciled,
    reconcile_pack,
)
from saldatura.core.reconcile.fit import reading_sigma_v
from saldatura.core.spread import spread_limit
from saldatura.core.verdict.types import DEAD_BELOW_V, GroupState, HangingGroup, Verdict, VerdictKind, VerdictRequest
from saldatura.core.verdict.words import (
    charger_says,
    cost_says,
    doubt_headline,
    doubt_settles,
    name_groups,
    off_sentence,
    symptoms_say,
    tool_says,
)


def verdict(request: VerdictRequest) -> Verdict:
    """Judge the readings of a string. Raises Impossible for a tap or group the pack does not have."""
    return verdict_on(request, reconcile_pack(request.pack, request.meter, request.readings))


def verdict_on(request: VerdictRequest, solved: Reconciled) -> Verdict:
    """The same from readings that are reconciled already."""
    window = WINDOWS[request.pack.chemistry]
    groups = hang(request.pack, request.meter, solved)
    if any(f.kind != "undetermined" for f in solved.findings):
        groups = [_doubted(g) for g in groups]
    plumb = _plumb(groups, window)
    balanced = _balance(request, groups)
    case = _Case(request, solved, window, groups, plumb, balanced)
    kind, headline, reasons, settles = next(found for rule in _RULES if (found := rule(case)) is not None)
    costs = kind in ("imbalanced", "sound")
    return Verdict(
        kind=kind,
        headline=headline,
        reasons=reasons + (symptoms_say(request.symptoms) if kind == "imbalanced" else []),
        charger=charger_says(balanced, request) if balanced and costs else None,
        tool=tool_says(balanced, request) if balanced and (costs or kind == "group_under_floor") else None,
        cost=cost_says(balanced) if balanced and costs else None,
        next_reading=solved.next_reading,
        settles=settles,
        plumb_v=plumb,
        groups=groups,
        balance=balanced,
    )


def hang(pack: Pack, meter: Meter, solved: Reconciled) -> list[HangingGroup]:
    """Each group against the plumb, with its state; groups touched by a finding are in doubt."""
    window = WINDOWS[pack.chemistry]
    known = {g.group: g.volts for g in solved.groups if g.volts is not None}
    healthy = [v for v in known.values() if v > window.rest_floor_v] or list(known.values())
    plumb = median(healthy) if healthy else None
    apart = 0.0
    if plumb is not None:
        limit = spread_limit(pack.chemistry, plumb, reading_sigma_v(meter))
        apart = limit.limit_v + limit.meter_v
    top = window.full_v * (1 + meter.percent / 100) + 0.03
    hanging = []
    for g in solved.groups:
        off = None if g.volts is None or plumb is None else g.volts - plumb
        state: GroupState
        if g.volts is None or off is None:
            state = "unread"
        elif g.volts < -DEAD_BELOW_V:
            state = "reversed"
        elif g.volts <= DEAD_BELOW_V:
            state = "dead"
        elif g.volts < window.rest_floor_v:
            state = "under_floor"
        elif window.family == "lithium" and g.volts > top:
            state = "in_doubt"
        elif abs(off) <= apart:
            state = "level"
        else:
            state = "low" if off < 0 else "high"
        hanging.append(
            HangingGroup(
                group=g.group,
                volts=g.volts,
                sigma_v=g.sigma_v,
                off_plumb_v=None if off is None else round(off, 4),
                state=state,
            )
        )
    return hanging


def _doubted(group: HangingGroup) -> HangingGroup:
    # While readings contradict each other no group is called bad: what hangs out of line is in doubt.
    known = group.state in ("level", "unread", "in_doubt")
    return group if known else group.model_copy(update={"state": "in_doubt"})


class _Case:
    """Everything the rules look at."""

    def __init__(
        self,
        request: VerdictRequest,
        solved: Reconciled,
        window: Window,
        groups: list[HangingGroup],
        plumb_v: float | None,
        balanced: Balance | None,
    ) -> None:
        self.request, self.solved, self.window = request, solved, window
        self.groups, self.plumb_v, self.balanced = groups, plumb_v, balanced

    def having(self, *states: GroupState) -> list[HangingGroup]:
        return [g for g in self.groups if g.state in states]

    @property
    def doubts(self) -> list[Finding]:
        return [f for f in self.solved.findings if f.kind != "undetermined"]

    def next_words(self) -> str | None:
        return words_for(self.solved.next_reading) if self.solved.next_reading else None


_Ruling = tuple[VerdictKind, str, list[str], str | None]


def _nothing_read(case: _Case) -> _Ruling | None:
    if case.plumb_v is not None or case.doubts:
        return None
    return (
        "cannot_tell",
        "Nothing is settled yet",
        ["No group's voltage follows from the readings so far."],
        f"Read {case.next_words()}." if case.next_words() else None,
    )


def _inconsistent(case: _Case) -> _Ruling | None:
    above = [
        f"Group {g.group} would hold {g.volts:.2f} V, more than any {case.window.name} cell can."
        for g in case.having("in_doubt")
        if g.volts is not None and g.volts > case.window.full_v
    ]
    if not case.doubts and not above:
        return None
    return (
        "readings_inconsistent",
        doubt_headline(case.doubts),
        [f.because for f in case.doubts] + above + ["Nothing is judged on them: no cell is bad until they agree."],
        doubt_settles(case.doubts, case.next_words()),
    )


def _reversed_or_dead(case: _Case) -> _Ruling | None:
    bad = case.having("reversed", "dead")
    if not bad:
        return None
    reasons = [
        f"Group {g.group} reads {g.volts:.2f} V: "
        + ("it was driven through zero by the others." if g.state == "reversed" else "nothing is left in it.")
        for g in bad
    ]
    reasons.append("It is not to be charged: copper may have plated through. It is replaced, or the pack is retired.")
    return (
        "reversed_or_dead_group",
        f"{name_groups(bad)} {'is' if len(bad) == 1 else 'are'} "
        + ("reversed" if bad[0].state == "reversed" else "dead"),
        reasons,
        f"Read {name_groups(bad).lower()} across its own two taps once more, to rule out an open sense wire.",
    )


def _under_floor(case: _Case) -> _Ruling | None:
    bad = case.having("under_floor")
    if not bad:
        return None
    floor = case.window.rest_floor_v
    return (
        "group_under_floor",
        f"{name_groups(bad)} {'lies' if len(bad) == 1 else 'lie'} under the floor",
        [
            *(
                f"Group {g.group} rests at {g.volts:.2f} V, under the floor of {floor:.2f} V for {case.window.name}."
                for g in bad
            ),
            "Below the floor copper may have dissolved; charging could short it from inside. There is no way past: "
            "the group is replaced, or the pack is retired.",
        ],
        f"Read {name_groups(bad).lower()} across its own two taps once more, to rule out an open sense wire.",
    )


def _incomplete(case: _Case) -> _Ruling | None:
    unread = case.having("unread")
    if not unread:
        return None
    reasons = [f.because for f in case.solved.findings if f.kind == "undetermined"]
    apart = case.having("low", "high")
    reasons += [off_sentence(g) for g in apart]
    return (
        "cannot_tell",
        f"{name_groups(apart)} out of line so far" if apart else "Not every group is settled",
        reasons,
        f"Read {case.next_words()}." if case.next_words() else None,
    )


def _imbalanced(case: _Case) -> _Ruling | None:
    apart = case.having("low", "high")
    if not apart or case.balanced is None:
        return None
    lithium = case.window.family == "lithium"
    matters = case.balanced.lost_fraction >= DEFAULT_POLICY.matters_fraction
    if lithium and not matters and all(abs(g.off_plumb_v or 0) < 0.1 for g in apart):
        return None
    reasons = [off_sentence(g) for g in apart]
    level = len(case.groups) - len(apart)
    if level > 1:
        reasons.append(f"The other {level} groups hang within the limit of each other.")
    settles = "The same groups under load, or after a day's rest: a weak group sags, a leaking one falls, a drifted one does neither."
    return "imbalanced", f"{name_groups(apart)} out of balance", reasons, settles


def _voltage_says_little(case: _Case) -> _Ruling | None:
    if case.window.family == "nickel":
        return (
            "cannot_tell",
            "Rest voltage says little of nickel cells",
            ["No group is dead or reversed. Nickel packs are judged on the spread under load and on capacity."],
            "The groups under load, or a capacity test.",
        )
    if case.balanced and not all(g.tells for g in case.balanced.groups):
        return (
            "cannot_tell",
            "Cannot tell the charge from the voltage",
            [
                "All groups hang level, but on the flat part of the curve: their charge may differ widely and the "
                "voltage would not show it."
            ],
            "The groups at the end of a charge, where the curve is steep: the first to reach full stops the charger.",
        )
    return None


def _sound(case: _Case) -> _Ruling | None:
    spread = max(g.off_plumb_v or 0 for g in case.groups) - min(g.off_plumb_v or 0 for g in case.groups)
    reasons = [f"All {len(case.groups)} groups hang within {spread * 1000:.0f} mV of one another at rest."]
    check = case.solved.sum_check
    if check is not None:
        reasons.append(f"Their sum, {check.sum_v:.2f} V, is what the terminals read.")
        settles = "A load step: weak cells and bad joints show only under current."
    else:
        settles = "The pack terminals: their reading checks the sum."
    return "sound", "The string hangs level", reasons, settles


_RULES: list[Callable[[_Case], _Ruling | None]] = [
    _nothing_read,
    _inconsistent,
    _reversed_or_dead,
    _under_floor,
    _incomplete,
    _imbalanced,
    _voltage_says_little,
    _sound,
]


def _plumb(groups: Sequence[HangingGroup], window: Window) -> float | None:
    known = [g.volts for g in groups if g.volts is not None]
    healthy = [v for v in known if v > window.rest_floor_v] or known
    return round(median(healthy), 4) if healthy else None


def _balance(request: VerdictRequest, groups: Sequence[HangingGroup]) -> Balance | None:
    rested = [
        RestedGroup(rest_v=g.volts, sigma_v=g.sigma_v) for g in groups if g.volts is not None and abs(g.volts) <= 10
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

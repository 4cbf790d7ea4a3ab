"""Steps by which some groups are taken out, and others put in or the gap closed."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

from saldatura.battery.join.rehousing import pinned, rehoused, without
from saldatura.battery.join.steps import (
    PAUSE_MIN,
    Ask,
    Bare,
    BuildCase,
    StepDo,
    Wait,
    WorkStep,
    apart,
    bedded,
    fixed,
    key,
    named,
    pin_to_read,
    put_back,
    rounded_v,
    to_hold,
    within,
)
from saldatura.battery.join.strings import joining, name_of_strip, parting, strip_key
from saldatura.battery.join.words import group_lists as words
from saldatura.battery.join.words import steps as step_words
from saldatura.battery.join.words.steps import CUTTERS, ELECTRODES, IRON, JOINT_COVERED


def replace(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Groups taken out and others put in; each run of neighbours by itself, the rest of the block under cover."""
    yield from apart(case, bare)
    yield from parting(case, bare)
    runs = _runs(case.groups, case.in_string)
    off = set[int]()
    for run in runs:
        yield from _out(case, bare, run, off)
        yield from _set(case, bare, run)
    bare.taps = {t for run in runs for t in range(run[0] - 1, run[-1] + 1)}
    yield from to_hold(case, bare)
    for run in runs:
        bare.taps = set(range(run[0] - 1, run[-1] + 1))
        yield from _in(case, bare, run)
    yield from joining(case)
    yield from _together(case, bare, sorted({case.shown_tap(t, g) for g in case.groups for t in (g - 1, g)}))


def drop(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """A group taken out and its gap bridged; the connector pinned anew, the charger for one group fewer."""
    group = case.groups[0]
    yield from apart(case, bare)
    yield from _out(case, bare, [group], set())
    gone = group - 1 if group == 1 else group
    left = [v for k, v in enumerate(case.volts, start=1) if k != group]
    kept = 1 if group == 1 else group - 1
    if 1 < group < case.series:
        if not case.soldered:
            yield next(step for step in to_hold(case, bare) if step.wants == "coupon")
        yield WorkStep(
            key=key("bridge", group), joint=words.bridge_from_tap(group), do=join_word(case), exposed_v=0.0, joins=True,
            because=words.carries_whole_current(group),
            tool=IRON if case.soldered else ELECTRODES, taps=[group - 1, group], wait=Wait(kind="cool", minutes=case.cool_min),
        )  # fmt: skip
    else:
        end: Literal["minus", "plus"] = "minus" if group == 1 else "plus"
        yield WorkStep(
            key=key("lead_moved", end), joint=words.main_lead_to_what(step_words.main_lead(end)), do="move", exposed_v=0.0,
            because=words.group_stood_at_end(group, kept), tool=IRON, taps=[kept],
        )  # fmt: skip
    below = case.at(kept) - (case.volts[0] if group == 1 else 0.0)
    if case.wired:
        yield WorkStep(
            key=key("wire_on", kept), joint=words.balance_wire_back(kept), do="put", exposed_v=0.0, insulate=[JOINT_COVERED], taps=[kept], tool=IRON,
            because=words.wire_of_tap_stays(gone, group),
            asks=Ask(what=words.BLACK_ON_PACK_MINUS, expected_v=rounded_v(below), within_v=within(case, kept)),
        )  # fmt: skip
        if case.new_housing:
            yield WorkStep(
                key=key("housing"), joint=words.housing_with(case.series), do="lay_ready", exposed_v=0.0, because=words.NEW_HOUSING_BECAUSE,
            )  # fmt: skip
            yield from rehoused(case, bare, gone, group)
        else:
            yield from pinned(case, bare, without(case, gone), group)
    total = sum(left)
    yield from put_back(case, total, ("glue",))
    yield WorkStep(
        key=key("leads_on"), joint=words.MAIN_LEADS_AND_PLUG if case.plugged else words.MAIN_LEADS, do="join", exposed_v=rounded_v(total), taps=[0, case.series], tool=IRON,
        because=words.LEAD_OF_PACKS_OWN + (words.BALANCE_PLUG_LAST if case.plugged else "."),
        asks=Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=rounded_v(total), within_v=within(case, len(left))),
    )  # fmt: skip
    yield WorkStep(
        key=key("shortened"), joint=words.charger_and_board(len(left)), do="set", exposed_v=rounded_v(total), leaves_out=group,
        because=words.old_end_voltage(case.series, total),
    )  # fmt: skip


def _out(case: BuildCase, bare: Bare, run: Sequence[int], off: set[int]) -> Iterator[WorkStep]:
    """A run of groups lifted out: only its own taps bare, cut where the least is left, then the cells; `off`: taps whose wire is off
    already, as that of the common minus is for the first string.
    """
    low, high = run[0] - 1, run[-1]
    taps = list(range(low, high + 1))
    bare.taps, shown = set(taps), [case.shown_tap(t, run[0]) for t in taps]
    yield WorkStep(
        key=key("cover", run[0], run[-1]), joint=words.everything_but_strips(shown), do="cover", exposed_v=rounded_v(bare.exposed()), taps=shown,
        because=words.what_stays_bare_then(bare.exposed(), case.at(case.series)),
    )  # fmt: skip
    for tap in [t for t in shown if t not in off] if case.wired else []:
        off.add(tap)
        yield WorkStep(
            key=key("wire_off", tap), joint=step_words.balance_wire(tap), do="take_off", exposed_v=rounded_v(bare.exposed()), insulate=[words.END_BEFORE_NEXT_WIRE], tool=IRON,
            because=words.ONE_WIRE_AT_TIME, taps=[tap],
        )  # fmt: skip
    yield from _split(case, bare, run)
    for tap in _least(case, bare, taps):
        bare.cut.add(tap)
        end = tap % case.in_string == 0
        own = case.cells[run[0] if tap == low else run[-1]][0]
        yield WorkStep(
            key=strip_key(case, tap, run[0], "open"), joint=name_of_strip(case, tap, run[0]) or step_words.strip(tap), do="cut", exposed_v=rounded_v(bare.exposed()), insulate=[words.BOTH_ENDS_OF_CUT], tool=CUTTERS,
            taps=[case.shown_tap(tap, run[0])], strip=True,
            because=words.packs_end_comes_away(run[0] if tap == low else run[-1]) if end
            else words.cut_own_tab(tap, own, case.sides[tap], bare.exposed()) if case.pouch
            else words.tap_on_side(tap, case.sides[tap], bare.exposed()),
        )  # fmt: skip
    for group in run:
        yield WorkStep(
            key=key("lift_out", group), joint=step_words.group_cells(group, named(case.cells[group])), do="lift_out", exposed_v=rounded_v(bare.exposed()), cells=list(case.cells[group]),
            because=words.CUT_DO_NOT_TEAR,
            insulate=[words.BOTH_ENDS_OF_EACH],
        )  # fmt: skip


def _split(case: BuildCase, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """Pouches: their poles marked, their glue split, before a tab is cut."""
    for group in run if case.pouch else []:
        cells = named(case.cells[group])
        yield WorkStep(
            key=key("mark", group), joint=words.poles_of(cells), do="mark", exposed_v=rounded_v(bare.exposed()), cells=list(case.cells[group]), because=words.marked_tabs(case.aluminium),
        )  # fmt: skip
        yield WorkStep(
            key=key("split", group), joint=words.glue_between(cells), do="split", exposed_v=rounded_v(bare.exposed()), cells=list(case.cells[group]),
            because=words.solvent_or_thread(case.glued),
        )  # fmt: skip


def _set(case: BuildCase, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """Cells set in their places for a run of groups."""
    new = words.CELL_BY_METER if case.pouch else words.CELL_WITH_RING
    for group in run:
        which = words.DONOR_CELL if case.work == "donor" else new
        for place in case.cells[group]:
            first = place == case.cells[group][0]
            yield WorkStep(
                key=key("cell_in", place), joint=words.place_of(which, place), do="set", exposed_v=rounded_v(bare.exposed()), cells=[place], puts_in=[group] if first else [],
                because=words.TABS_LIE_SO if case.pouch else words.RING_ON_PLUS_END,
            )  # fmt: skip


def _in(case: BuildCase, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """The cells of a run of groups joined to what stands beside them, the least voltage first."""
    low, high = run[0] - 1, run[-1]
    order = list(reversed(_least(case, Bare(case), list(range(low, high + 1)))))
    for n, tap in enumerate(order):
        bare.cut.discard(tap)
        yield WorkStep(
            key=strip_key(case, tap, run[0], "close"), joint=words.new_one(name_of_strip(case, tap, run[0])) or words.new_strip_of_tap(tap), do=join_word(case), exposed_v=rounded_v(bare.exposed()),
            insulate=[name_of_strip(case, tap, run[0]) or words.strip_of_tap(tap)], taps=[case.shown_tap(tap, run[0])],
            because=words.HALVES_COME_TOGETHER_LAST if n == len(order) - 1 else words.WHILE_LITTLE_HANGS_TOGETHER,
            tool=IRON if case.soldered else ELECTRODES, joins=True, strip=True,
            wait=Wait(kind="cool", minutes=case.cool_min) if n == len(order) - 1 else Wait(kind="cool", minutes=PAUSE_MIN) if case.soldered else None,
        )  # fmt: skip


def _together(case: BuildCase, bare: Bare, taps: Sequence[int]) -> Iterator[WorkStep]:
    """Wires back on their taps with a reading each, sensors, what holds it, the lead, and the plug last."""
    bare.taps = set(taps)
    for tap in taps if case.wired else []:
        yield WorkStep(
            key=key("wire_on", tap), joint=words.balance_wire_back(tap), do="put", exposed_v=rounded_v(bare.exposed()), insulate=[JOINT_COVERED], taps=[tap], tool=IRON,
            because=words.READ_ITS_PIN_BEFORE if tap else words.PIN_IS_WHAT_EVERY, asks=pin_to_read(case, tap) if tap else None,
        )  # fmt: skip
    groups = {c for g in case.groups for c in case.cells[g]}
    for sensor, cells in case.spots:
        if groups & set(cells):
            yield bedded(bare, sensor, cells)
    if case.pouch:
        yield WorkStep(
            key=key("tab_paper"),
            joint=words.TAPE_BETWEEN,
            do="lay",
            exposed_v=rounded_v(bare.exposed()),
            because=words.TABS_THAT_TOUCH,
        )
    yield from fixed(case, bare.exposed())
    if case.stays_open:
        return
    total = case.at(case.series)
    yield WorkStep(
        key=key("lead_on", "minus"), joint=words.MAIN_LEAD_BACK, do="put", exposed_v=rounded_v(total), insulate=[JOINT_COVERED], tool=IRON, taps=[0],
        because=words.PACKS_OWN_LEAD_AFTER,
        asks=Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=rounded_v(total), within_v=within(case, case.series)),
    )  # fmt: skip
    if case.plugged:
        yield WorkStep(
            key=key("plug_in"), joint=words.BALANCE_PLUG_BACK, do="push", exposed_v=rounded_v(total), because=words.LAST_OF_ALL_EVERY,
        )  # fmt: skip


def _least(case: BuildCase, bare: Bare, taps: Iterable[int]) -> list[int]:
    """Cuts in the order that leaves the least bare after each, the lower tap first where it is the same."""
    left, order = list(taps), []
    trial = Bare(case)
    trial.taps, trial.cut = set(left) & bare.taps or set(left), set(bare.cut)

    def after(tap: int) -> float:
        was, trial.cut = trial.cut, trial.cut | {tap}
        most = trial.exposed()
        trial.cut = was
        return round(most, 6)

    while left:
        tap = min(left, key=lambda t: (after(t), t))
        trial.cut.add(tap)
        order.append(tap)
        left.remove(tap)
    return order


def _runs(groups: Sequence[int], in_string: int) -> list[list[int]]:
    """Groups that stand beside each other in one string."""
    runs: list[list[int]] = []
    for group in sorted(set(groups)):
        if runs and runs[-1][-1] == group - 1 and (group - 1) % in_string:
            runs[-1].append(group)
        else:
            runs.append([group])
    return runs


def join_word(case: BuildCase) -> StepDo:
    return "solder" if case.soldered else "weld"

"""Work lists generated from the map and the repair that was chosen: one action a step, with what lies bare after it."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

from saldatura.battery.errors import Impossible
from saldatura.battery.join.order import Joint, TakeDownRequest, take_down
from saldatura.battery.join.rehousing import board_mounted, pinned, repin, transplant, without
from saldatura.battery.join.steps import (
    PAUSE_MIN,
    Ask,
    Bare,
    BuildCase,
    Steps,
    Wait,
    WorkStep,
    apart,
    bedded,
    named,
    pin_to_read,
    rounded_v,
    within,
)
from saldatura.battery.join.words import lists as words
from saldatura.battery.join.words.lists import CUTTERS, ELECTRODES, LAST_OF_DROP, TITLES
from saldatura.battery.join.words.steps import IRON


def work_lists(case: BuildCase) -> list[Steps]:
    """The lists of a repair: taking down and building up for a rebuild, one list for any other.

    Raises Impossible where the repair names no group, or one that is not there.
    """
    if case.work == "rebuild":
        return [_whole(case, "open"), _whole(case, "close")]
    if case.work in ("groups", "donor", "drop_group", "board_mounted"):
        _groups_there(case)
    bare = Bare(case)
    before = bare.exposed()
    steps = list(MAKERS[case.work](case, bare))
    return [
        Steps(
            name=case.work, title=TITLES[case.work], steps=steps, peak_v=max((s.exposed_v for s in steps), default=0.0),
            before_v=round(before, 4),
        )
    ]  # fmt: skip


def _groups_there(case: BuildCase) -> None:
    if not case.groups:
        raise Impossible("work_groups", words.say_which_group(case.series))
    beyond = next((g for g in case.groups if g > case.series), None)
    if beyond is not None:
        raise Impossible("work_groups", words.there_is_no_group(beyond, case.series))
    if case.work == "drop_group" and len(case.groups) > 1:
        raise Impossible("work_groups", words.ONE_GROUP_IS_LEFT)
    if case.work == "drop_group" and case.series < 2:
        raise Impossible("work_groups", words.ONLY_GROUP_OF_PACK)


# --- the whole block


def _whole(case: BuildCase, aim: Literal["open", "close"]) -> Steps:
    """Every strip, lead and wire, in the order of `take-down`."""
    joints = [Joint(joint=f"strip {tap}", tap=tap, kind="link") for tap in range(1, case.series)]
    joints += [
        Joint(joint="main lead −", tap=0, kind="lead"),
        Joint(joint="main lead +", tap=case.series, kind="lead"),
    ]
    joints += [
        Joint(joint=f"balance wire {tap}", tap=tap, kind="sense") for tap in range(case.series + 1) if case.wired
    ]
    found = take_down(TakeDownRequest(series=case.series, group_v=max(max(case.volts), 0.1), joints=joints, aim=aim))
    of = {j.joint: j for j in joints}
    steps = [_new_cells(case)] if aim == "close" and case.new_cells else []
    last = next((s.joint for s in reversed(found.steps) if of[s.joint].kind == "link"), None)
    for step in found.steps:
        tap, kind = of[step.joint].tap, of[step.joint].kind
        link = kind == "link"
        closing = aim == "close"
        asks = pin_to_read(case, tap) if closing and kind == "sense" and tap else None
        if closing and kind == "lead" and tap == case.series:
            asks = Ask(
                what=words.BLACK_ON_MINUS_LEAD,
                expected_v=rounded_v(case.at(tap)),
                within_v=within(case, tap),
            )
        waits = closing and link and (case.soldered or step.joint == last)
        steps.append(
            WorkStep(
                joint=step.joint,
                do=("solder" if case.soldered else "weld") if closing and link else step.do,
                exposed_v=step.exposed_v,
                insulate=step.insulate,
                because=step.because,
                tool=_tool(case, closing, link),
                asks=asks,
                wait=Wait(kind="cool", minutes=PAUSE_MIN if step.joint != last else case.cool_min) if waits else None,
                joins=closing and link,
                taps=[tap],
            )
        )  # fmt: skip
    return Steps(name=aim, title=TITLES[aim], steps=steps, peak_v=found.peak_v, before_v=found.before_v)


def _new_cells(case: BuildCase) -> WorkStep:
    """The cells are in: what was read of the old ones is of cells that are gone."""
    return WorkStep(
        joint=words.NEW_CELLS_IN_THEIR, do="set", exposed_v=0.0, puts_in=list(range(1, case.series + 1)),
        because=words.EACH_WITH_RING,
    )  # fmt: skip


def _tool(case: BuildCase, closing: bool, link: bool) -> str:
    if not link:
        return IRON
    return (IRON if case.soldered else ELECTRODES) if closing else CUTTERS


# --- some groups


def _replace(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Groups taken out and others put in; each run of neighbours by itself, the rest of the block under cover."""
    yield from apart(case, bare)
    for run in _runs(case.groups):
        yield from _out(case, bare, run)
        yield from _in(case, bare, run)
    yield from _together(case, bare, sorted({t for g in case.groups for t in (g - 1, g)}))


def _drop(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """A group taken out and its gap bridged; the connector pinned anew, the charger for one group fewer."""
    group = case.groups[0]
    yield from apart(case, bare)
    yield from _out(case, bare, [group])
    gone = group - 1 if group == 1 else group
    left = [v for k, v in enumerate(case.volts, start=1) if k != group]
    kept = 1 if group == 1 else group - 1
    if 1 < group < case.series:
        yield WorkStep(
            joint=words.bridge_from_tap(group), do=_join_word(case), exposed_v=0.0, joins=True,
            because=words.carries_whole_current(group),
            tool=IRON if case.soldered else ELECTRODES, taps=[group - 1, group], wait=Wait(kind="cool", minutes=case.cool_min),
        )  # fmt: skip
    else:
        end = "−" if group == 1 else "+"
        yield WorkStep(
            joint=words.main_lead_to_what(end), do="move", exposed_v=0.0,
            because=words.group_stood_at_end(group, kept), tool=IRON, taps=[kept],
        )  # fmt: skip
    below = case.at(kept) - (case.volts[0] if group == 1 else 0.0)
    if case.wired:
        yield WorkStep(
            joint=words.balance_wire_back(kept), do="put", exposed_v=0.0, insulate=["the joint"], taps=[kept], tool=IRON,
            because=words.wire_of_tap_stays(gone, group),
            asks=Ask(what=words.BLACK_ON_PACK_MINUS, expected_v=rounded_v(below), within_v=within(case, kept)),
        )  # fmt: skip
        yield from pinned(case, bare, without(case, gone), group)
    total = sum(left)
    yield WorkStep(
        joint=words.MAIN_LEADS_AND_PLUG if case.wired else "main leads", do="join", exposed_v=rounded_v(total), taps=[0, case.series], tool=IRON,
        because=words.LEAD_OF_PACKS_OWN + (words.BALANCE_PLUG_LAST if case.wired else "."),
        asks=Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=rounded_v(total), within_v=within(case, len(left))),
    )  # fmt: skip
    yield WorkStep(
        joint=LAST_OF_DROP.format(len(left)), do="set", exposed_v=rounded_v(total), leaves_out=group,
        because=words.old_end_voltage(case.series, total),
    )  # fmt: skip


def _out(case: BuildCase, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """A run of groups lifted out: only its own taps bare, cut where the least is left, then the cells."""
    low, high = run[0] - 1, run[-1]
    taps = list(range(low, high + 1))
    bare.taps = set(taps)
    yield WorkStep(
        joint=words.everything_but_strips(taps), do="cover", exposed_v=rounded_v(bare.exposed()), taps=taps,
        because=words.what_stays_bare_then(bare.exposed(), case.at(case.series)),
    )  # fmt: skip
    for tap in taps if case.wired else []:
        yield WorkStep(
            joint=f"balance wire {tap}", do="take off", exposed_v=rounded_v(bare.exposed()), insulate=[words.END_BEFORE_NEXT_WIRE], tool=IRON,
            because=words.ONE_WIRE_AT_TIME, taps=[tap],
        )  # fmt: skip
    for tap in _least(case, bare, taps):
        bare.cut.add(tap)
        end = tap in (0, case.series)
        yield WorkStep(
            joint=f"strip {tap}", do="cut", exposed_v=rounded_v(bare.exposed()), insulate=[words.BOTH_ENDS_OF_CUT], tool=CUTTERS, taps=[tap],
            because=words.packs_end_comes_away(run[0] if tap == low else run[-1]) if end else words.tap_on_side(tap, case.sides[tap], bare.exposed()),
        )  # fmt: skip
    for group in run:
        yield WorkStep(
            joint=f"group {group}, {named(case.cells[group])}", do="lift out", exposed_v=rounded_v(bare.exposed()), cells=list(case.cells[group]),
            because=words.CUT_DO_NOT_TEAR,
            insulate=[words.BOTH_ENDS_OF_EACH],
        )  # fmt: skip


def _in(case: BuildCase, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """Cells put in for a run of groups, and joined to what stands beside them, the least voltage first."""
    low, high = run[0] - 1, run[-1]
    for group in run:
        which = "the donor cell" if case.work == "donor" else words.CELL_WITH_RING
        for place in case.cells[group]:
            first = place == case.cells[group][0]
            yield WorkStep(
                joint=words.place_of(which, place), do="set", exposed_v=rounded_v(bare.exposed()), cells=[place], puts_in=[group] if first else [],
                because=words.RING_ON_PLUS_END,
            )  # fmt: skip
    order = list(reversed(_least(case, Bare(case), list(range(low, high + 1)))))
    for n, tap in enumerate(order):
        bare.cut.discard(tap)
        yield WorkStep(
            joint=words.new_strip_of_tap(tap), do=_join_word(case), exposed_v=rounded_v(bare.exposed()), insulate=[words.strip_of_tap(tap)], taps=[tap],
            because=words.HALVES_COME_TOGETHER_LAST if n == len(order) - 1 else words.WHILE_LITTLE_HANGS_TOGETHER,
            tool=IRON if case.soldered else ELECTRODES, joins=True,
            wait=Wait(kind="cool", minutes=case.cool_min) if n == len(order) - 1 else Wait(kind="cool", minutes=PAUSE_MIN) if case.soldered else None,
        )  # fmt: skip


def _together(case: BuildCase, bare: Bare, taps: Sequence[int]) -> Iterator[WorkStep]:
    """Wires back on their taps with a reading each, sensors, what holds it, the lead, and the plug last."""
    bare.taps = set(taps)
    for tap in taps if case.wired else []:
        yield WorkStep(
            joint=words.balance_wire_back_2(tap), do="put", exposed_v=rounded_v(bare.exposed()), insulate=["the joint"], taps=[tap], tool=IRON,
            because=words.READ_ITS_PIN_BEFORE if tap else words.PIN_IS_WHAT_EVERY, asks=pin_to_read(case, tap) if tap else None,
        )  # fmt: skip
    groups = {c for g in case.groups for c in case.cells[g]}
    for sensor, cells in case.spots:
        if groups & set(cells):
            yield bedded(bare, sensor, cells)
    yield WorkStep(
        joint=words.CELLS_AND_WIRES_WHERE, do="fix", exposed_v=rounded_v(bare.exposed()), because=words.NEUTRAL_SILICONE_OR_FISH,
        wait=Wait(kind="cure", minutes=case.cure_min),
    )  # fmt: skip
    total = case.at(case.series)
    yield WorkStep(
        joint=words.MAIN_LEAD_BACK, do="put", exposed_v=rounded_v(total), insulate=["the joint"], tool=IRON, taps=[0],
        because=words.PACKS_OWN_LEAD_AFTER,
        asks=Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=rounded_v(total), within_v=within(case, case.series)),
    )  # fmt: skip
    if case.wired:
        yield WorkStep(
            joint=words.BALANCE_PLUG_BACK, do="push", exposed_v=rounded_v(total), because=words.LAST_OF_ALL_EVERY,
        )  # fmt: skip


# --- the board, the connector, cells on a board


MAKERS = {
    "groups": _replace, "donor": _replace, "drop_group": _drop, "transplant": transplant, "repin": repin, "board_mounted": board_mounted,
}  # fmt: skip


# --- small things


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


def _runs(groups: Sequence[int]) -> list[list[int]]:
    runs: list[list[int]] = []
    for group in sorted(set(groups)):
        if runs and runs[-1][-1] == group - 1:
            runs[-1].append(group)
        else:
            runs.append([group])
    return runs


def _join_word(case: BuildCase) -> str:
    return "solder" if case.soldered else "weld"

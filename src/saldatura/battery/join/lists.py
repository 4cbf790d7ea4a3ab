"""Work lists generated from the map and the repair that was chosen: one action a step, with what lies bare after it."""

from collections.abc import Iterator
from typing import Literal

from saldatura.battery.errors import Impossible
from saldatura.battery.join.finish import closing, harness_on
from saldatura.battery.join.for_good import apart_for_good
from saldatura.battery.join.group_lists import drop, replace
from saldatura.battery.join.mounted import board_mounted
from saldatura.battery.join.order import Joint
from saldatura.battery.join.parts import OVER_BLOCK, WITH_CELLS
from saldatura.battery.join.rehousing import repin, transplant
from saldatura.battery.join.steps import (
    PAUSE_MIN,
    Ask,
    Bare,
    BuildCase,
    ListName,
    StepDo,
    Steps,
    Wait,
    WorkStep,
    bedded,
    fixed,
    freed,
    key,
    pin_to_read,
    put_back,
    rounded_v,
    to_hold,
    within,
)
from saldatura.battery.join.strings import TIED, joining_ask, joint_key, joints_of, taken_down
from saldatura.battery.join.words import lists as words
from saldatura.battery.join.words.lists import TITLES
from saldatura.battery.join.words.steps import CUTTERS, ELECTRODES, IRON
from saldatura.battery.words import SHORTER_STRING


def work_lists(case: BuildCase) -> list[Steps]:
    """The lists of a repair: taking down and building up for a rebuild, one list for any other; and what closes the case.

    Raises Impossible where the repair names no group, or one that is not there.
    """
    if case.work == "rebuild":
        return [_whole(case, "open"), _whole(case, "close"), _finish(case)]
    if case.work in ("groups", "donor", "drop_group", "board_mounted"):
        _groups_there(case)
    bare = Bare(case)
    before = bare.exposed()
    found = [_listed(case.work, list(MAKERS[case.work](case, bare)), before)]
    return found if case.work in ("repin", "apart_for_good") else [*found, _finish(case)]


def _listed(name: ListName, steps: list[WorkStep], before: float) -> Steps:
    return Steps(
        name=name,
        title=TITLES[name],
        steps=steps,
        peak_v=max((s.exposed_v for s in steps), default=0.0),
        before_v=round(before, 4),
    )


def closing_list(case: BuildCase) -> list[Steps]:
    """What closes the case alone, of a pack whose repair is done."""
    return [_finish(case)]


def _finish(case: BuildCase) -> Steps:
    return _listed("case", list(closing(case)), 0.0)


def _groups_there(case: BuildCase) -> None:
    if not case.groups:
        raise Impossible("work_groups", "say_which_group", words.say_which_group(case.series))
    beyond = next((g for g in case.groups if g > case.series), None)
    if beyond is not None:
        raise Impossible("work_groups", "no_such_group", words.there_is_no_group(beyond, case.series))
    if case.work == "drop_group" and len(case.groups) > 1:
        raise Impossible("work_groups", "one_group_left", words.ONE_GROUP_IS_LEFT)
    if case.work == "drop_group" and case.strings > 1:
        raise Impossible("work_groups", "shorter_string", SHORTER_STRING)
    if case.work == "drop_group" and case.series < 2:
        raise Impossible("work_groups", "only_group", words.ONLY_GROUP_OF_PACK)


# --- the whole block


def _whole(case: BuildCase, aim: Literal["open", "close"]) -> Steps:
    """Every strip, lead and wire, in the order of `take-down`; before it and after it what stands with the cells and over them."""
    joints = joints_of(case)
    found = taken_down(case, joints, aim)
    by_name = {j.joint: j for j in joints}
    links = [s.joint for s in found.steps if by_name[s.joint].kind == "link"]
    bare, steps = Bare(case), list[WorkStep]()
    if aim == "open":
        steps += freed(case, bare, OVER_BLOCK)
    else:
        steps += _set_in(case, bare)
    for step in found.steps:
        if aim == "close" and by_name[step.joint].kind == "plug":
            steps += fixed(case, step.exposed_v)
        joint = by_name[step.joint]
        steps.append(
            WorkStep(
                key=joint_key(case, joint, aim),
                joint=step.joint,
                do=_do(case, joint, aim),
                exposed_v=step.exposed_v,
                insulate=step.insulate,
                because=step.because,
                tool=_tool(case, joint, aim),
                asks=_asks(case, joint) if aim == "close" else None,
                wait=_wait(case, joint, last=step.joint == links[-1]) if aim == "close" and links else None,
                joins=aim == "close" and joint.kind == "link",
                strip=joint.kind in ("link", "tie"),
                strings=TIED[aim] if joint.kind == "tie" and joint.tap == case.series else None,
                taps=[joint.tap],
            )
        )
        if aim == "close" and case.harness and joint.kind == "lead" and joint.tap == case.series:
            steps += harness_on(case)
    if aim == "close" and not case.plugged:
        steps += fixed(case, found.steps[-1].exposed_v)
    if aim == "open":
        steps += freed(case, bare, WITH_CELLS)
    return Steps(name=aim, title=TITLES[aim], steps=steps, peak_v=found.peak_v, before_v=found.before_v)


def _set_in(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """What stands with the cells, the cells, and the sensors between them; and what must hold before the first joint."""
    yield from put_back(case, 0.0, WITH_CELLS)
    yield WorkStep(
        key=key("cells_in", "new" if case.new_cells else "old"), joint=words.NEW_CELLS_IN_THEIR if case.new_cells else words.CELLS_BACK_IN, do="set", exposed_v=0.0,
        puts_in=list(range(1, case.series + 1)) if case.new_cells else [],
        because=words.TABS_AS_MAP_HAS if case.pouch else words.EACH_WITH_RING,
    )  # fmt: skip
    bare.taps = set()
    for sensor, cells in case.spots:
        yield bedded(bare, sensor, cells)
    yield from to_hold(case, bare)


def _do(case: BuildCase, joint: Joint, aim: str) -> StepDo:
    if joint.kind == "plug":
        return "pull" if aim == "open" else "push"
    if aim == "open":
        return "cut"
    return "join" if joint.kind != "link" else "solder" if case.soldered else "weld"


def _tool(case: BuildCase, joint: Joint, aim: str) -> str:
    if joint.kind == "plug":
        return ""
    if joint.kind != "link":
        return IRON
    return (IRON if case.soldered else ELECTRODES) if aim == "close" else CUTTERS


def _asks(case: BuildCase, joint: Joint) -> Ask | None:
    if joint.kind == "tie":
        return joining_ask(None if joint.tap == case.series else joint.tap)
    if joint.kind == "sense" and joint.tap:
        return pin_to_read(case, joint.tap)
    if joint.kind == "lead" and joint.tap == case.series:
        volts = rounded_v(case.at(joint.tap))
        return Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=volts, within_v=within(case, joint.tap))
    return None


def _wait(case: BuildCase, joint: Joint, last: bool) -> Wait | None:
    if joint.kind != "link" or not (case.soldered or last):
        return None
    return Wait(kind="cool", minutes=case.cool_min if last else PAUSE_MIN)


# --- one list each


MAKERS = {
    "groups": replace, "donor": replace, "drop_group": drop, "transplant": transplant, "repin": repin, "board_mounted": board_mounted,
    "apart_for_good": apart_for_good,
}  # fmt: skip

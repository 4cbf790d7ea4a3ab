"""The order in which a whole block is taken down or built up: one string as `take-down` has it, strings side by side parted first."""

from collections.abc import Sequence
from typing import Literal

from saldatura.battery.join.order import (
    Joint,
    TakeDown,
    TakeDownRequest,
    TakeDownStep,
    because,
    halving,
    insulate,
    take_down,
)
from saldatura.battery.join.steps import Ask, Bare, BuildCase, StringsBecome, WorkStep, key, rounded_v
from saldatura.battery.join.words import steps as step_words
from saldatura.battery.join.words import strings as words
from saldatura.battery.join.words.steps import CUTTERS, IRON
from saldatura.battery.limits.joining import TOGETHER_STRINGS_V

Aim = Literal["open", "close"]
TIED: dict[str, StringsBecome] = {"open": "parted", "close": "joined"}


def joints_of(case: BuildCase) -> list[Joint]:
    """Every strip between two groups, lead, wire and plug of a block, and what ties its strings."""
    inner = [tap for tap in range(1, case.series) if tap % case.in_string]
    joints = [Joint(joint=step_words.strip(tap), tap=tap, kind="link") for tap in inner]
    joints += [
        Joint(joint=step_words.main_lead("minus"), tap=0, kind="lead"),
        Joint(joint=step_words.main_lead("plus"), tap=case.series, kind="lead"),
    ]
    joints += [Joint(joint=words.cross_link(tap), tap=tap, kind="tie") for tap in case.cross]
    if case.strings > 1:
        joints.append(Joint(joint=words.TIE_OF_PLUS_ENDS, tap=case.series, kind="tie"))
    if case.wired:
        joints += [Joint(joint=step_words.balance_wire(tap), tap=tap, kind="sense") for tap in range(case.series + 1)]
    if case.plugged:
        joints.append(Joint(joint=step_words.BALANCE_PLUG, tap=case.series, kind="plug"))
    return joints


def joint_key(case: BuildCase, joint: Joint, aim: Aim) -> str:
    """What the step about a joint of `joints_of` is known by."""
    opened = aim == "open"
    if joint.kind == "plug":
        return key("plug_out" if opened else "plug_in")
    if joint.kind == "lead":
        return key("lead_off" if opened else "lead_on", "plus" if joint.tap else "minus")
    if joint.kind == "sense":
        return key("wire_off" if opened else "wire_on", joint.tap)
    if joint.kind == "tie" and joint.tap == case.series:
        return key("tie_cut" if opened else "tie_join")
    if joint.kind == "tie":
        return key("cross_cut" if opened else "cross_join", joint.tap)
    return key("strip_cut" if opened else "strip_join", joint.tap)


def strip_key(case: BuildCase, tap: int, group: int, aim: Aim) -> str:
    """What the step about a strip at an end of a group is known by: of strings side by side, an end of one by its string."""
    opened = aim == "open"
    if case.strings == 1 or tap % case.in_string:
        return key("strip_cut" if opened else "strip_join", tap)
    string = (group - 1) // case.in_string + 1
    return key("strip_end_cut" if opened else "strip_end_join", string, "minus" if tap < group else "plus")


def taken_down(case: BuildCase, joints: Sequence[Joint], aim: Aim) -> TakeDown:
    """Those joints in the order that leaves the least bare. Raises Impossible as `take_down` does."""
    asked = TakeDownRequest(series=case.series, group_v=max(max(case.volts), 0.1), joints=list(joints), aim=aim)
    return take_down(asked) if case.strings == 1 else _by_string(case, asked)


def _by_string(case: BuildCase, asked: TakeDownRequest) -> TakeDown:
    """Plug and leads off, the strings parted, then each halved in turn with the others, and its wires last; built up the other way about:
    no string is joined to another before it is whole and reads as they do.
    """
    each, bare = case.in_string, Bare(case)

    def joints_of_kind(kind: str) -> list[Joint]:
        return sorted((j for j in asked.joints if j.kind == kind), key=lambda j: j.tap)

    strips = {j.tap: j for j in joints_of_kind("link")}
    turns = halving(0, each, tuple(range(1, each)))
    order = [strips[base + tap] for tap in turns for base in range(0, case.series, each)]
    opened = asked.aim == "open"
    if opened:
        sequence = [
            *joints_of_kind("plug"),
            *joints_of_kind("lead"),
            *joints_of_kind("tie"),
            *order,
            *joints_of_kind("sense"),
        ]
    else:
        sequence = [
            *reversed(order),
            *reversed(joints_of_kind("tie")),
            *joints_of_kind("lead"),
            *joints_of_kind("sense"),
            *joints_of_kind("plug"),
        ]
        bare.cut = set(strips)
    before, steps = bare.exposed(), list[TakeDownStep]()
    for joint in sequence:
        if joint.kind == "link":
            bare.cut ^= {joint.tap}
        exposed = bare.exposed()
        steps.append(
            TakeDownStep(
                joint=joint.joint, do="cut" if opened else "join", exposed_v=round(exposed, 4), insulate=insulate(joint, joint.kind or "link", asked.aim),
                because=because(asked, joint, joint.kind or "link", exposed),
            )
        )  # fmt: skip
    of_links = {j.joint for j in strips.values()}
    peak = [s.exposed_v for s in steps if s.joint in of_links]
    return TakeDown(steps=steps, peak_v=max(peak or [s.exposed_v for s in steps]), before_v=round(before, 4))


def parting(case: BuildCase, bare: Bare) -> list[WorkStep]:
    """The strings parted before a group of one is touched; nothing for one string."""
    if case.strings == 1:
        return []
    crossed = [
        WorkStep(
            key=key("cross_cut", tap), joint=words.cross_link(tap), do="cut", exposed_v=rounded_v(bare.exposed()), insulate=[words.cross_link(tap)], tool=CUTTERS, taps=[tap], strip=True,
            because=words.CROSSED_FEEDS,
        )
        for tap in case.cross
    ]  # fmt: skip
    return [
        *crossed,
        WorkStep(
            key=key("tie_cut"), joint=words.TIE_OF_PLUS_ENDS, do="cut", exposed_v=rounded_v(bare.exposed()), insulate=[words.EACH_PLUS_END], tool=CUTTERS, taps=[case.series], strip=True,
            because=words.PARTED_FIRST, strings="parted",
        )
    ]  # fmt: skip


def joining(case: BuildCase) -> list[WorkStep]:
    """The strings joined again once they read alike; nothing for one string."""
    if case.strings == 1:
        return []
    return [
        WorkStep(
            key=key("tie_join"), joint=words.PLUS_ENDS, do="join", exposed_v=rounded_v(case.at(case.series)), tool=IRON, taps=[case.series], strip=True,
            because=words.JOINED_LAST, asks=joining_ask(), strings="joined",
        ),
        *(
            WorkStep(
                key=key("cross_join", tap), joint=words.cross_link_again(tap), do="join", exposed_v=rounded_v(case.at(case.series)), tool=IRON, taps=[tap], strip=True,
                because=words.CROSSED_LAST, asks=joining_ask(tap),
            )
            for tap in case.cross
        ),
    ]  # fmt: skip


def joining_ask(cross: int | None = None) -> Ask:
    """What must be read between the plus ends, or between the ends of a cross link, before they are joined."""
    return Ask(
        what=words.BETWEEN_PLUS_ENDS if cross is None else words.between_cross(cross),
        expected_v=0.0,
        within_v=TOGETHER_STRINGS_V,
    )


def name_of_strip(case: BuildCase, tap: int, group: int) -> str | None:
    """What the strip at an end of a string is called, by the group it comes from; None of any other, and of one string."""
    if case.strings == 1 or tap % case.in_string:
        return None
    return words.end_of_string((group - 1) // case.in_string + 1, tap < group)

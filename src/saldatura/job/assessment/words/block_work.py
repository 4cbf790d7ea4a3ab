"""What `block_work` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.joining import JOINT_S, LEAST_IRON_W
from saldatura.battery.wording import figure

if TYPE_CHECKING:
    from saldatura.battery.join.solder import Joint

NO_RECIPE_OF_WELD = "No recipe of the weld lab is chosen: a setting holds for one welder, strip and cell only."
TIN_STRIP_AND_CELL = (
    "Tin strip and cell first, apart; then two seconds a joint at most, and a pause before the next on the same cell."
)


def group_is_left_out(was: int) -> str:
    return f"Group {was} is left out, and its list is done. Nothing of this repair is left to join."


def reads_where_belongs(action: str, volts: float, what: str, expected_v: float) -> str:
    return f"{action[:1].upper()}{action[1:]}: it reads {figure(volts, 2)} V, {what}, where {figure(expected_v, 2)} V belongs"


def leads_or_probes(line: str) -> str:
    return (
        f"{line}. Leads or probes are the wrong way round: undo it, cover the end, and look again before anything else."
    )


def nothing_comes_through_look(line: str) -> str:
    return f"{line}: nothing comes through. Look at the joint, then read again."


def undo_it_cover_end(line: str) -> str:
    return f"{line}. Undo it, cover the end, and find out which tap that is before anything else."


def welded_with_on_one(welder: str, strip: str, on: str) -> str:
    return f"Welded with {welder}: {strip} on {on}. One coupon before the first weld of the day."


NEVER_ON_CAN = "On the can itself a joint heats the cell through: weld it, or solder to a tab that is welded on. Whoever solders a can tins it in one second, once, and lets it cool."


def joint_takes(joint: Joint, iron_w: float, big_tip: bool) -> str:
    with_ = f"With {figure(iron_w, 0)} W and a {'big' if big_tip else 'small'} tip"
    if joint.seconds is None:
        return f"{with_} this joint never grows hot enough for solder: a bigger tip, or a hotter iron."
    said = f"{with_} this joint takes about {figure(joint.seconds, 1)} s, and the weld on the cell grows {figure(joint.end_k, 0)} K warmer"
    if not joint.in_time:
        return f"{said}: too long, {figure(JOINT_S, 0)} s at most. A bigger tip, or a stronger iron."
    return f"{said}; then a pause of {figure(max(joint.pause_s, 5.0), 0)} s on the same cell."


def say_what_iron() -> str:
    return f"Type the iron's power: {figure(LEAST_IRON_W, 0)} W or more, or a big tip. A weak iron heats the cell, not the joint."


def iron_of_is_weak(iron_w: float) -> str:
    return f"An iron of {figure(iron_w, 0)} W is weak: it stays on the cell too long. {figure(LEAST_IRON_W, 0)} W or more, or a big tip."

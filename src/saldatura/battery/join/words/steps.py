"""What `steps` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from typing import Literal

    from saldatura.battery.join.parts import PackPart
    from saldatura.battery.join.steps import StepDo

DOES: dict[StepDo, str] = {
    "bed": "bed", "charge": "charge", "clear": "clear", "close": "close", "cover": "cover", "cut": "cut", "fix": "fix", "free": "free",
    "join": "join", "lay": "lay", "lay_aside": "lay aside", "lay_ready": "lay ready", "leave": "leave", "lift": "lift",
    "lift_out": "lift out", "look": "look", "mark": "mark", "move": "move", "pull": "pull", "push": "push", "put": "put", "read": "read",
    "run": "run", "set": "set", "set_in": "set in", "solder": "solder", "split": "split", "take": "take", "take_off": "take off",
    "tape": "tape", "test": "test", "trim": "trim", "weigh": "weigh", "weld": "weld",
}  # fmt: skip


def action(do: StepDo, joint: str) -> str:
    return f"{DOES[do]} {joint}"


BALANCE_PLUG = "the balance plug"
PINS_OF_PLUG = "the plug's pins"
JOINT_COVERED = "the joint"


def main_lead(end: Literal["minus", "plus"]) -> str:
    return f"main lead {'−' if end == 'minus' else '+'}"


def balance_wire(tap: int) -> str:
    return f"balance wire {tap}"


def strip(tap: int) -> str:
    return f"strip {tap}"


def group_cells(group: int, cells: str) -> str:
    return f"group {group}, {cells}"


def sensor_against(sensor: str, cells: str) -> str:
    return f"{sensor} against {cells}"


BOARD_LETS_GO = "This disconnects the board from every tap at once."
END_OF_LEAD = "the end of the lead"
POLE_IT_CAME = "the pole it came from"
NO_CURRENT_FLOWS_THROUGH = "No current flows through the board or the device from here on."
NO_CURRENT_FLOWS = "No current flows through the device from here on."
NEW_ONE_GOES_IN = "It is used up: a new one goes in."
IT_GOES_BACK = "It goes back as it was: lay it where its side and its end are seen."
POLARITY_RUN = "every new cell in its place, on the map"
EACH_CELL_ON_MAP = "Each new cell is read where it stands, before anything is joined to it."
COUPON_OF_DAY = "a coupon of today"
SETTING_HOLDS_ONE_DAY = "A setting holds for one welder, strip and cell, and is tried once at the start of a day."
SENSOR_THAT_HANGS_FREE = (
    "A loose sensor tells the board the air, not the cell. Read its ohms in Measures when it is in."
)


def black_on_pack_minus(tap: int) -> str:
    return f"black on pack minus, red on pin {tap}"


def more_cells_count(cells_count: int) -> str:
    return f" and {cells_count - 6} more"


CELLS_AND_WIRES_WHERE = "cells and wires where they were fixed"
NEUTRAL_SILICONE_OR_FISH = "Neutral silicone or fish paper and tape as before: what can move will break."
CUTTERS = "Ceramic or insulated cutters, one strip at a time; glasses on, nothing metal on the hands."
ELECTRODES = "Both electrodes on this strip only; cover what lies beside it, sparks fly."
IRON = "The iron touches this one joint; two seconds at most, then a pause."


def the_part(part: PackPart) -> str:
    return f"the {part.called}"


def part_back(part: PackPart) -> str:
    return f"{'a new' if part.is_new else 'the old'} {part.called}" + (
        f", {part.count} pieces" if part.count > 1 else ""
    )


def part_because(part: PackPart) -> str:
    if part.part in ("riser", "spacer", "weight"):
        return "It sets the height of the contacts: without it they miss those of the device."
    if part.part == "sheet":
        return "It keeps apart what carries different voltages."
    if part.part == "glue":
        return "Neutral silicone, no vinegar smell; what can move will break."
    return "As it was before."

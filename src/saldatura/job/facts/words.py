"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import time_words, volts_words

if TYPE_CHECKING:
    from datetime import datetime

BOARD_PUT = "the board put in"
PROMISE = "the promised day"
ANSWER_WAITED_FOR = "that an answer is waited for"
PATTERN_TAKEN = "the pattern taken over"
LESSON_TAKEN = "what this pack taught its pattern"
BLOCK_AS_TOLD = "the block as entered"
STEP_TICKED_OFF = "the step ticked off"
TWO_CONNECTORS_HAVE_ONE = "two connectors have one name; a name for each"
END_OF_CHARGE = "the end of the charge"
GIVE_GROUPS_VOLTS_CHARGERS = "give the group's volts, the charger's amps, or both"
LOOK_AT_CHARGE = "the look at the charge"
INTAKE_OF_THIS_JOB = (
    "the intake of this job cannot be read, so nothing says what pack it is; its export holds all facts as they are"
)
CHOOSE_WHAT_WAS_TOLD = "choose what was said or seen, or write it"
PIN_HAS_BOTH = "a pin has both x and y, or neither to take it off"
SET_UNDER_LOAD = "a set under load or charge is for comparing only; give it the purpose load, and no other"
GIVE_CURRENT_THAT_FLOWS = "give the current that flows, in amps, so that resistances can be told"
FRESH_SET_OF_READINGS = "the fresh set of readings"
SAY_IN_WORD = "say in a word or two what makes it this cause"
CAUSE_AS_HELD = "the cause as held"
CAPACITY_TEST_LASTS = "a capacity test lasts by its current; give amps"
GIVE_DAYS = "give the days that it is watched for"
END_OF_WAIT = "the end of the wait"


def cells_put_into(fitted: str) -> str:
    return f"the cells put into {fitted}"


def group_left_out(group: int) -> str:
    return f"group {group} left out"


def cells_put_into_group(group: int) -> str:
    return f"the cells put into group {group}"


def start_of_charge(group: int) -> str:
    return f"the start of the charge of group {group}"


def machines_clock_was_put(by_s: float, how: str, at: datetime) -> str:
    return f"This machine's clock was put {time_words(abs(by_s))} {how} at {at:%H:%M} UTC. The order of what was recorded stands, and no rest is counted across it; charges and waits that ran over it are reckoned by the new time: look at each."


def tap_is_not_there(beyond: int, series: int) -> str:
    return f"tap {beyond} is not there: {series} in series have taps 0 to {series}"


def step_to(stage: str) -> str:
    return f"the step to {stage}"


def lead_on_pin(lead: str, tap: int) -> str:
    return f"lead {lead} on pin {tap}"


def work_at(place: str) -> str:
    return f"the work at {place}"


def wire_of_tap(tap: int) -> str:
    return f"the wire of tap {tap}"


def reading_at(point: str, on_tabs: bool, volts: float | None) -> str:
    return f"{point}{' on its tabs' if on_tabs else ''}: {'cannot reach' if volts is None else volts_words(volts)}"


READ_BETWEEN_STRINGS = "read between the plus ends first, with the minus ends touching; give what the meter reads, V"
STRINGS_JOINED, STRINGS_PARTED = "the joining of the strings", "the parting of the strings"


def part_came(name: str) -> str:
    return f"{name}, which came"


def there_is_no_pattern(number: int) -> str:
    return f"there is no pattern {number}; Patterns lists those there are"


def pattern_is_of_another_build(theirs: str, ours: str) -> str:
    return f"that pattern is of {theirs} and this pack is {ours}; correct the pack in Take in, or take another pattern"


def pattern_has_no_such_step(step: str) -> str:
    return f"the pattern of this job has no step “{step}”; look at the steps anew"

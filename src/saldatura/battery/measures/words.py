"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.acceptance import ODD_SHARE
from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import agree, counted, degrees, figure, percent, typed, volts_small

if TYPE_CHECKING:
    from saldatura.battery.measures.evidence import Result

CURRENT_IS_IN_EVERY = "the current is 0 in every row; is it another column?"
THERE_IS_NO_DISCHARGE = (
    "There is no discharge in this file, only a charge: nothing of the capacity follows. Discharge it from full."
)
GIVE_AT_LEAST_ONE = "give at least one register that was read"
BLINK_CODE_NOT_KNOWN = "blink code not known"
ANSWERS_ONLY_WHEN_FED = "answers only when fed from outside"
OPEN_NO_SENSOR_READS = (
    "Open: no sensor reads so much at any temperature. The board takes it for deep cold and blocks the charge."
)
SHORTED_OR_ANOTHER_TYPE = "Shorted, or another type of sensor: the board takes it for great heat and blocks everything. Feel with the back of the hand that the pack is cool."
OPEN_JUNCTION_NEVER_HOLDS = "Open: a junction never holds so much."
SHORTED_OR_FEWER_JUNCTIONS = "Shorted, or fewer junctions than thought."
TIME_GOES_BACKWARDS_LOG = "time goes backwards; log one step at a time"
CURRENT_MAKES_NO_CLEAR = "the current makes no clear step; switch the load on while the log runs"
LOG_IS_TOO_SLOW = "; the log is too slow to tell what was there at once, so no joint is told from a cell"
STEP_IS_TOO_SMALL = "; the step is too small for these digits: take a larger current"
NO_GROUP_IS_OUT = "No group is out of line with its siblings."


def rated_capacity_is_more(soh: float) -> str:
    return f"{percent(soh)} of the rated capacity is more than any cell gives: is the unit of the current or the rating another?"


def did_not_begin_full(start_v: float) -> str:
    return f"It did not begin full, at {figure(start_v, 2)} V: the capacity is at least this."


def did_not_finish(end_v: float) -> str:
    return f"It did not finish: it stopped at {figure(end_v, 2)} V, before the cells were empty. The capacity is at least this."


def moving_it(changes: bool, what: str) -> str:
    return f"moving it {'changes' if changes else 'does not change'} {what}"


def then_did_at_result(did: str, at: str, result: str) -> str:
    return f"{did.replace('_', ' ')}{at}, and then {result}"


def reads_rail_volts(rail: str, volts: float) -> str:
    return f"{rail.replace('_', ' ')} reads {figure(volts, 2)} V"


def gauge_shows(fraction: float) -> str:
    return f"the gauge shows {percent(fraction)}"


def air_at(what: str, c: float, ambient_c: float) -> str:
    return f"{what} at {degrees(c)}, the air at {degrees(ambient_c)}"


def reference_in_and_then(put: str, result: str) -> str:
    return f"reference {put} in, and then {result}"


def it_should_read(ambient_c: float, ohms: str) -> str:
    return f"At {degrees(ambient_c)} it should read {ohms}."


def as_it_is_near(ohm: float, as_kilo: float, ambient_c: float) -> str:
    return f"{typed(ohm)} Ω, or {typed(ohm)} kΩ? As kΩ it is {degrees(as_kilo)}, near the air's {degrees(ambient_c)}. Look at the meter's unit."


def too_much_as_dirty(ohms: str) -> str:
    return f"; {ohms} too much, as a dirty connector adds"


def beside_of_air_believable(celsius: float, ambient_c: float) -> str:
    return f"{degrees(celsius, 1)} beside {degrees(ambient_c)} of air: believable."


def warmer_than_air(celsius: float, off: float) -> str:
    return f"{degrees(celsius, 1)}, {figure(off, 0)} K warmer than the air: it may be hot. Do not open it; feel with the back of the hand or a thermometer. Only if it is cool to the touch is the sensor or its type wrong."


def is_than_air_if(celsius: float, off: float, where: str, more: str) -> str:
    return f"{degrees(celsius, 1)} is {figure(abs(off), 0)} K {where} than the air{more}. If the pack has rested here, the sensor or its type is wrong."


def should_read_about(ambient_c: float, junctions: int, usual: float) -> str:
    return f"At {degrees(ambient_c)} {counted(junctions, 'junction')}{' in series' if junctions > 1 else ''} should read about {figure(usual, 2)} V in the diode range."


def each_sound_junctions_what(each: float, diode_v_per_k: float) -> str:
    return f"{figure(each, 2)} V each: sound junctions. What one drops at {degrees(25)} depends on its make and the meter's current, so no temperature follows; warmed with a finger each falls by about {volts_small(-diode_v_per_k)} a kelvin."


def m_whose_milli_doubt(whose: str, milli: str, doubt: str, at_once: float | None, first_s: float) -> str:
    return f"{whose}: {milli}{doubt} mΩ {('at once' if at_once is not None else f'after {figure(first_s, 0)} s')}"


def m_after(milli: str, held_s: float) -> str:
    return f", {milli} mΩ after {figure(held_s, 0)} s"


def step_of(says: str, step_a: float, quiet: bool) -> str:
    return f"{says}, at a step of {figure(abs(step_a), 2)} A.{'' if quiet else ' It still recovered from a load before: rest a minute, then step again.'}"


def group_has_too_much(group: int) -> str:
    return f"Group {group} has too much at once, and grows like its siblings: a joint, a strip or a weld."


def group_grows_more_than(group: int) -> str:
    return f"Group {group} grows more than its siblings with time: the cells themselves."


def groups_at_least(least_siblings: int) -> str:
    return f"At least {counted(least_siblings, 'group')} {agree(least_siblings, 'is', 'are')} needed to say which is out of line."


def group_lies_times_siblings(group: int, z: float | None) -> str:
    return f"Group {group} lies {figure(z, 1)} times the siblings' spread above them, but less than {typed(ODD_SHARE)} times as high: watch it, no fault yet."


PLAIN = {
    "full_at_once": "says full at once",
    "stops_early": "stops early",
    "fault_blink": "blinks a fault",
    "never_ends": "never ends",
    "no_reaction": "does not react",
    "cuts_out_under_load": "cuts out under load",
    "short_run": "runs only a short while",
    "gauge_jumps": "jumps on its gauge",
    "dead": "is dead",
}


RESULTS: dict[Result, str] = {
    "fault_stays": "the fault stays",
    "fault_goes": "the fault goes",
    "comes_back": "it goes and comes back",
    "another_fault": "another fault shows",
}


def board_feeds_itself(groups: list[int]) -> str:
    return f"the board feeds itself from {groups_words(groups).lower()}"

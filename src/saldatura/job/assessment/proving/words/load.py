"""What `load` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.acceptance import AT_THE_END, BEHIND_V, OF_PROMISED, OUT_OF_LINE
from saldatura.battery.limits.charging import HOT_C
from saldatura.battery.limits.running import HOTTEST_C, USEFUL
from saldatura.battery.quantities import groups_words, time_words
from saldatura.battery.wording import agree, counted, degrees, figure, percent, significant, typed, volts_small

if TYPE_CHECKING:
    from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
    from saldatura.battery.prove.run_types import RunTime

WHAT_CHEMISTRY_VOLTAGE = "what chemistry, voltage and meter allow"
ALWAYS_WHAT_REPAIR = "Always: what the repair was for is seen here first."
READ_EVERY_GROUP_AFTER = "Read every group after its rest."
JOINTS_WERE_MADE_ONE = "Joints were made: one that is bad shows under load alone."
TOOL_DRAWS_IT_WEAK = "The tool draws it: a weak group shows under load alone."
LOAD_ON_FOR_TEN = "The load on for ten seconds a group at most; it grows hot. Fingers and rings off bare taps."
NO_GROUP_SAGS_OUT = "No group sags out of line."
CELLS_WERE_PUT = "Cells were put in: whether they carry the work is seen in a run."
NOT_ASKED = "Not required by this repair; it shows what the pack can do now."
NEVER_UNATTENDED_ON_PLATE = (
    "Never unattended, on a plate that does not burn. Stop at a group's own cut-off, not at the pack's alone."
)
GREW_TOO_WARM = "It grew too warm."
GROUPS_WERE_NOT_READ = "The groups were not read at its end: read each as the load goes off."
CARRIED_ITS_LOAD = "It carried its load as forecast."
CARRIED_ITS_LOAD_NO = "It carried its load; no forecast was kept with it."
HOLDS_WHAT_WAS_PROMISED = "It holds what was promised."
HOLDS_LESS_WEAKEST_GROUP = "It holds less: the weakest group sets it; Judge names it."
WHAT_IT_CAN_NOW = "What it can do now was promised."
NOT_ASKED_BY_THIS_REPAIR = "Not required by this repair; the customer is told that it was not measured."
OWN_CHARGER = "on its own charger"
ALWAYS_CUSTOMER_DOES = "Always: the customer does this first."
CHARGER_REFUSES_IT_JUDGE = "Its charger refuses it: Judge says what it asks for."
DID_NOT_END = "It did not end by itself: a board or a charger that does not stop overcharges."
TAKEN_AND_ENDED = "Taken, and ended by itself. The groups were not read at its end: read each before it rests."
TAKES_ITS_CHARGE = "It takes its charge and ends it."
TAKEN_GROUPS_NOT_READ = "taken, groups not read"
CHARGES_AS_THEY_WERE = "Charge records in order"
CHARGE_THAT_CANNOT = "A charge record that cannot be right proves nothing."
EACH_ENDED = "each ended in its time, with its charge, inside voltage and warmth"
SPREAD_AFTER_DAY = "Spread after a day"
SPREAD_AFTER_WEEK = "Spread after a week"
GROUP_THAT_LEAKS_HAS = "A group that leaks has fallen by then."
NOTHING_THAT_COULD_LEAK = "Nothing that could leak was changed."
TWO_SETS_AT_REST = "Two sets at rest so far apart tell it; set a reminder."
NO_GROUP_FALLS_BEHIND = "No group falls behind its siblings."


def first_charge_is_watched() -> str:
    return f"The first charge is watched to its end; past {degrees(HOT_C)} it is off and outside."


def all_within_every_group(apart: str) -> str:
    return f"all within {apart}, every group in its window, the sum at the terminals"


def no_group_sags_times() -> str:
    return f"no group sags {typed(OUT_OF_LINE)} times what its siblings do"


def set_under_load(amps: float) -> str:
    return f"A set under load, at some {significant(amps)} A, in Probe tells it."


def groups_are_not_read(series: int, ohms_count: int) -> str:
    return f"{counted(series - ohms_count, 'group')} {agree(series - ohms_count, 'is', 'are')} not read under load yet."


def m_group_most_m(middle: float, ohm: float, worst: int, drawn: float) -> str:
    return f"{figure(1000 * middle, 1)} mΩ a group, the most {figure(1000 * ohm, 1)} mΩ in group {worst}, at {significant(drawn)} A"


def fell_under_where_no(under: list[int], floor: float) -> str:
    return f"{groups_words(under)} fell under {figure(floor, 2)} V, where no cell of the kind may be drawn to."


def out_of_line_weak(surely: list[int]) -> str:
    return f"{groups_words(surely)} {'sags' if len(surely) == 1 else 'sag'} out of line: a weak cell or a joint. Judge tells which."


def may_be_out(maybe: list[int]) -> str:
    return f"{groups_words(maybe)} may be out of line, the meter cannot tell: a larger load, or a finer range."


def m_here(limit: str, most: float) -> str:
    return f"{limit}: {figure(1000 * most, 1)} mΩ here"


def group_was_not_read(group: int) -> str:
    return f"Group {group} was not read at rest before the load: read every group at rest, then under the load."


def group_was_not_read_at_rest(group: int, what: str) -> str:
    return f"Group {group} was not read at rest since {what}: read every group at rest, then under the load."


def group_had_rested_since(group: int, rest_s: float, what: str, due_s: float) -> str:
    return f"Group {group} had rested {time_words(max(rest_s, 0.0))} since {what}, {time_words(due_s)} are needed: read it at rest, then under the load."


def at_once_and_after(at_once: float, after_ten: float, amps: float) -> str:
    return f"{figure(at_once, 2)} V at once and {figure(after_ten, 2)} V after 10 s, at {significant(amps)} A"


def no_shorter_than_forecast() -> str:
    return f"no shorter than forecast, no warmer than {degrees(HOTTEST_C)}, no group {volts_small(BEHIND_V)} behind its siblings at its end"


def group_read(group: int | None, volts: float, limit_v: float) -> str:
    return f"Group {group} was at {figure(volts, 2)} V at its end, under the {figure(limit_v, 2)} V that no cell of the kind bears."


def group_was_empty_before(group: int | None) -> str:
    return f"Group {group} was empty before its siblings: it holds less than they do."


def ended_after_and_were(seconds: float, low: float) -> str:
    return f"It ended after {time_words(seconds)} and {time_words(low)} were the least: a group holds less than taken, or was not full."


def stopped_by_hand_before(low: float) -> str:
    return f"It was stopped by hand before the {time_words(low)} that are the least."


def seconds_amps_ah(seconds: float, amps: float, ah: float | None, run: LoadRunMeasure) -> str:
    return f"{time_words(seconds)} at {significant(amps)} A{(f', {figure(run.ah, 2)} Ah' if ah else '')}"


def least_promised(least: float, promised: float | None) -> str:
    return f"{figure(least, 2)} Ah, {(f'{percent(OF_PROMISED)} of the {figure(promised, 2)} Ah promised' if promised else f'{percent(USEFUL)} of the label')}"


def no_group_above(ceiling: float, tool_end_v: float, proof_soc: float) -> str:
    return f", no group above {figure(ceiling, 2)} V or under {figure(tool_end_v, 2)} V, none more than {percent(AT_THE_END * proof_soc)} of its charge behind"


def its_charger_ends_at(volts: float) -> str:
    return f"; chargers of this pattern end at {figure(volts, 1)} V"


def ended_elsewhere(volts: float, usual_v: float) -> str:
    return f"It takes its charge, and ends at {figure(volts, 1)} V where packs of this pattern end at {figure(usual_v, 1)} V; look at the charger, and whether it is the right one."


def charger_for_in_series(series: int) -> str:
    return f"on a charger for {series} in series"


def taken_ended_by_itself(each: str) -> str:
    return f"taken, ended by itself{each}"


def not_charged_yet(own: str) -> str:
    return f"Not charged {own} yet."


def apart_at_end(group_v: list[float]) -> str:
    return f"{volts_small(max(group_v) - min(group_v))} apart at the end"


def full_charge_which_ended(own: str) -> str:
    return f"a full charge {own}, which ended by itself"


def group_read_at_end(group: int | None, volts: float, limit_v: float) -> str:
    return f"Group {group} was at {figure(volts, 2)} V at the end, {figure(limit_v, 2)} V is the most: overcharged. Charge nothing before it is let down."


def group_read_when_charger(group: int | None, volts: float) -> str:
    return (
        f"Group {group} was at {figure(volts, 2)} V when the charger had ended: it is nearly empty beside its siblings."
    )


def group_is(group: int | None, behind: float) -> str:
    return f"Group {group} is {percent(behind)} of its charge behind its siblings at least: level further."


def group_may_be_up(group: int | None, behind: float) -> str:
    return f"Group {group} may be up to {percent(behind)} of its charge behind: the voltage does not show it there. Read it nearer to full, or count its capacity."


def charge_it_again_watched(said: str) -> str:
    return f"{said.capitalize()}. Charge it again, watched."


def no_group_loses_more(limit_mah: float) -> str:
    return f"no group loses more than {figure(limit_mah, 0)} mAh a day beyond its siblings"


def first_set_at_rest(apart_h: float) -> str:
    return f"The first set at rest since anything flowed is {time_words(3600 * apart_h)} old."


def group_loses_day_beyond(group: int, leak: float) -> str:
    return f"Group {group} loses {figure(leak, 0)} mAh a day beyond its siblings: it leaks."


def group_may_lose_day(group: int, leak: float, doubt: float) -> str:
    return f"Group {group} may lose {figure(max(leak + doubt, 0), 0)} mAh a day, as far as this meter tells in the time: a longer watch, or a finer range."


def day_at_most_behind(leak: float, doubt: float, behind: float, apart_h: float) -> str:
    return f"{figure(max(leak, 0), 0)} ± {figure(doubt, 0)} mAh a day at most, {figure(max(behind, 0), 0)} mV behind in {time_words(3600 * apart_h)}"


def run_is_to_last(least_s: float, amps: float, forecast: RunTime) -> str:
    ended_by = "the pack" if forecast.ends.group is None else f"group {forecast.ends.group}"
    return f"{time_words(least_s)} to {time_words(forecast.duration_high_s)} at {significant(amps)} A, {figure(forecast.delivered_ah, 2)} Ah, ended by {ended_by}, {degrees(forecast.hottest_c)} at most"

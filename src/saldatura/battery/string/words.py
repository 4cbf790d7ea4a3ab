"""What is said of a string at rest."""

from __future__ import annotations

from statistics import median
from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words, volts_words
from saldatura.battery.wording import agree, counted, figure, ohms_small, significant, volts_moved, volts_small

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.battery.string.lead_types import Lead


def shared_fall_says(drift: float, days: float, shared: float) -> str:
    """The sentence for a fall that all groups share."""
    return (
        f"All groups fell by {volts_small(abs(drift))} in {counted(days, 'day')}: more than temperature and meter explain. About {figure(shared, 0)} mAh a day "
        f"({significant(shared / 24, 2)} mA) leaves the whole string: the board or something joined to it draws, or every cell discharges itself. Take the board's plug off, rest, read again."
    )


def hazard_caution(amps: float) -> str:
    """The caution at a pack whose short gives so many amps."""
    size = f"up to about {figure(amps / 1000, 1)} kA" if amps >= 1000 else f"up to about {figure(round(amps, -1), 0)} A"
    return f"A short gives {size}: rings and tools weld. Rings off, one probe tip sleeved to its last 2 mm."


def why_floating(lead: Lead, wanders: bool) -> str:
    """Why a loose lead is called open."""
    if wanders:
        return f"{lead.lead} wanders from reading to reading: it is open, and the meter pulls it"
    return f"{lead.lead} at {figure(lead.volts, 2)} V lies on no tap: it is open, and what it shows is leakage"


BOTH_SETS = "Both sets are of the same current."
LEAK_TWO_REST_SETS = "For a leak, two rest sets at least six hours apart are needed."
FEWER_THAN_THREE_GROUPS = "Fewer than three groups are read in both sets; siblings are needed to compare with."
GROUPS_ROSE_UNDER_LOAD = (
    "The groups rose under load: the sets or the sign of the current are exchanged. No resistance follows from that."
)
NO_GROUP_DROPS_OUT = "No group drops out of line with its siblings."
FEWER_THAN_THREE_GROUPS_ARE_READ = "Fewer than three groups are read in both sets; a leak shows only against siblings."
NO_LEAD_READS_PUT = "no lead reads 0 V: put the reference lead itself, against which all were measured, on the list"
VOLTAGE_IS_THERE_ALL = (
    "The voltage is there all the way out. Under load it may still fall: read the same nodes with a current."
)
NOT_LOST_AS_FAR = "No loss in what was read so far."
SWITCH_IS_JUDGED = " A switch is judged by its gate before it is called dead."
ONE_GROUP_LIES = "The one group lies"


def given_but_pack_has(of_count: int, series: int) -> str:
    return f"{counted(of_count, 'group')} given, but the pack has {series} in series; give one entry a group, without volts where it was not read"


def median_group_has(usual: float) -> str:
    return f"The median group has {ohms_small(usual)}."


def group_has_times(group: int, ohm: float, usual: float) -> str:
    return f"Group {group} has {ohms_small(ohm)}, {figure(ohm / usual, 1)} times as much: a weak cell or a bad joint. At once under load it is the joint, growing with time the cell."


def group_drops_more_than(group: int, z: float | None, ohm: float | None, usual: float) -> str:
    return f"Group {group} drops more than its siblings by {figure(z, 1)} times their spread, but only {figure((ohm or 0.0) / usual, 2)} times as much as they do: watch it, no fault yet."


def group_fell(group: int, by_v: float, beyond: bool, then_v: float | None, now_v: float | None) -> str:
    return f"Group {group} fell by {volts_small(abs(by_v))}{' more than its siblings' if beyond else ''}, from {volts_words(then_v or 0.0)} to {volts_words(now_v or 0.0)}, near empty, where the voltage itself is the evidence: it leaks and is replaced."


def fell_more_than_rest(against: set[int], drift: float) -> str:
    return f"{groups_words(sorted(against))} fell more than the rest: the median lies among them, so all are compared with the best ones ({volts_moved(drift)})."


def all_groups_together_moved(drift: float) -> str:
    return f"All groups moved by {volts_moved(drift)} together (temperature, meter); only the rest counts."


def group_rose(group: int, moved: float) -> str:
    return f"Group {group} rose by {volts_small(moved)}: it was charged between the two sets, so no leak can be told of it."


def group_loses_day_more(group: int, leak_mah_day: float, sigma_mah_day: float | None, leak_ua: float | None) -> str:
    return f"Group {group} loses {figure(leak_mah_day, 1)} ± {figure(sigma_mah_day, 1)} mAh a day more than its siblings ({figure(leak_ua, 0)} µA): a leaking cell."


def cannot_tell_from_voltage(flat: Sequence[int], name: str) -> str:
    return f"Cannot tell from voltage of {groups_words(flat).lower()}: {name} is flat there, and a leak hardly moves it. Charge to where the curve is steep, or measure a discharge."


def no_group_leaks_out(known: list[float]) -> str:
    return f"No group leaks out of line; less than about {figure(2 * median(known), 1)} mAh a day would not show between these two sets."


def series_reach_above_dc(series: int, highest: float, pack_limit_v: float) -> str:
    return f"{series} in series reach {figure(highest, 1)} V, above the {figure(pack_limit_v, 0)} V DC extra-low-voltage limit for dry conditions (IEC 61140). Refer it to someone licensed for that voltage."


def two_leads_are_called(twice: str) -> str:
    return f"two leads are called “{twice}”; name each as the hand can tell it"


def leads_for_taps_some(leads_count: int, series: int) -> str:
    return f"{counted(leads_count, 'lead')} for {series + 1} taps; some are no balance leads, or share a tap"


def reads_so_reference(lead: str, volt: float) -> str:
    return f"{lead} reads {figure(volt, 2)} V, so the reference is not the lowest lead; {lead} is"


def read_same_on_one(names: list[str]) -> str:
    return f"{' and '.join(names)} read the same: on one tap, shorted to each other, or a dead group between them, and the volts cannot tell which. Part them, follow both to their tabs, and read the cell between before joining either"


def no_lead_has_potential(tap: int) -> str:
    return f"no lead has the potential of tap {tap}"


def no_lead_comes(tap: int, other: int, series: int, top: int, lowest: str, group_v: float) -> str:
    return f"no lead comes from tap {tap}, or none from tap {other} and every lead sits {series - top} higher: the leads cannot tell. Read {lowest} against pack minus: 0 V and the top is missing, {volts_words((series - top) * group_v)} and the bottom is"


def leads_span_and_terminals(whole: float, pack_v: float) -> str:
    return f"the leads span {volts_words(whole)} and the terminals read {volts_words(pack_v)}: read the terminals again; no lead is moved for them"


def lead_upper_lead_volts_lower_volts(lead: str, upper_lead: str, volts: float, lower_volts: float) -> str:
    return f"{lead} to {upper_lead} is {figure(volts - lower_volts, 2)} V"


def should_read_about(says: str, b: int, a: int, name: str, group_v: float) -> str:
    return f"{says}; {('a group' if b - a == 1 else counted(b - a, 'group'))} of {name} should read about {figure(group_v * (b - a), 2)} V"


def group_at_or_reversed(mean: float) -> str:
    return f". A group at {volts_words(mean)}, or a reversed one at {volts_words(-mean)} with the two leads the other way round: read that group on its own tabs"


def reads_where_string_has(node: str, volts: float, string_v: float) -> str:
    return f"“{node}” reads {volts_words(volts, 1)} where the string has {volts_words(string_v, 1)}: the probes are exchanged, or plus and minus are. Check the probes, then the polarity; join nothing before it is right."


def lacks_voltage_that_further(inner: str, outer: str) -> str:
    return f"“{inner}” lacks the voltage that “{outer}”, further out, has: one of the two touches was not on its node. Read both again."


def not_lost_yet(next_node: str) -> str:
    return f"No loss so far; touch “{next_node}” next."


def between_and(good: str, gone: str) -> str:
    return f"between “{good}” and “{gone}”"


def lost_where_part_gate(where: str, part: str, gate: str) -> str:
    return f"It is lost {where}: {part}.{gate}"


def lost_touch_next(where: str, next_node: str) -> str:
    return f"It is lost {where}; touch “{next_node}” next."


def terminals_of(volts: float, series: int) -> str:
    return f"{volts_words(volts, 1 if abs(volts) >= 10 else 2)} at the terminals of {counted(series, 'group')}"


def each_at_least_one(read: str, mean: float) -> str:
    return f"{read} are {volts_words(mean)} each: at least one group lies"


def probes_are_exchanged(read: str) -> str:
    return f"{read}: the probes are exchanged, or plus and minus are. Check the probes, then the polarity, before anything is joined."


def nothing_reaches_them(read: str) -> str:
    return f"{read}: nothing reaches them, or the string is empty. Read the groups; charge nothing before."


def less_under_floor(least: str, mean: float, rest_floor_v: float) -> str:
    return f"{least} at {volts_words(mean)} or less, under the floor of {figure(rest_floor_v, 2)} V. Charge nothing before every group is read."


def less_run_flat_charge(least: str, mean: float) -> str:
    return f"{least} at {volts_words(mean)} or less: run flat. Charge nothing before every group is read."


def each_at_least_one_group(read: str, mean: float) -> str:
    return (
        f"{read} are {volts_words(mean)} each: at least one group stands above full. Charge nothing; read every group."
    )


def dead_beside_sound_ones(dead: int) -> str:
    return f", or {counted(dead, 'cell is', 'cells are')} dead beside sound ones"


def each_empty_read_every(read: str, mean: float, others: str) -> str:
    return f"{read} are {volts_words(mean)} each: empty{others}. Read every cell."


def each_empty_or_some(read: str, mean: float) -> str:
    return f"{read} are {volts_words(mean)} each: empty, or some groups are lower still. Read every group."


def each_and_no_group(read: str, mean: float, low: float) -> str:
    return (
        f"{read} are {volts_words(mean)} each, and no group lies below {volts_words(low)} unless another is above full."
    )


def each_how_only_groups(read: str, mean: float, series: int) -> str:
    return (
        f"{read} are {volts_words(mean)} each; how {agree(series, 'it lies', 'they share that')} only the groups tell."
    )


def lost_before_body_diode(lost: float, node: str, part: str) -> str:
    return (
        f"{figure(lost, 1)} V are lost before “{node}” with no load: a switch is off and its body diode shows ({part}). "
        "Read its gate before it is called dead; under load the rest is lost too."
    )

"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words, volts_words
from saldatura.battery.wording import counted, figure, significant, typed, volts_small
from saldatura.battery.words import string_name

if TYPE_CHECKING:
    from collections.abc import Sequence

ALUMINIUM_TAKES_NO_SOLDER = "aluminium takes no solder, and the heat harms the pouch: cut the tab so that its plated part stays with the cell, or weld or clamp it"
PROMISE_A_DAY_TO_COME = "a promise is of a day to come, within a year; choose a later one"
NONE_IS_TOLD_YET = "none is told yet"
NAME_CHANNEL_WHOSE_INSTRUMENT = "name the channel whose instrument is to be switched"
CHARGER_IS_SWITCHED = "its charger is switched by hand; the program drives none"
CHANGED_IN_ANOTHER_WINDOW = (
    "this was changed in another window since you opened it; look at what it says now, then send yours again"
)
JOB_IS_SIGNED_OFF = (
    "this job is signed off and closed; open it again in Hand over, with a reason, or take the pack in again"
)
SAFETY_SCREEN_IS_NOT = "the safety screen is not answered; answer all six questions in Take in first"
RECORD_OF_THIS_PACK = "a record of this pack cannot be read any more, and may have told of a danger; look at the pack again and answer all six questions in Take in anew"
PACK_IS_NOT = "the pack is not in quarantine; there is nothing to release"
ANOTHER_READING_WAS_SENT = "another reading was sent with this key; send this one with a key of its own"
NO_LEADS_ARE_IDENTIFIED = "no leads are identified yet; measure each loose lead first"
NO_LEAD_BELONGS_THERE = "no lead belongs there"
ONLY_GROUP_OF_PACK = "the only group of a pack cannot be left out; scrap the pack, or put other cells in"


def there_is_no_group(beyond: int, series: int) -> str:
    return f"there is no group {beyond}; the pack has {series} in series"


def placed_against_and_map(sensor: str, lost: str) -> str:
    return f"{sensor} is placed against {lost}, and the map has no such cell"


def there_is_no_list(list_: str, names: str) -> str:
    return f"there is no list {list_} for what is done to this block ({names})"


def list_has_no(step: str) -> str:
    return f"the list has no step {step}; take one of its keys"


def shop_has_no_channel(channel: str, names: str) -> str:
    return f"the shop has no channel {channel} ({names}); Instruments lists them"


def charges_no_group(name: str) -> str:
    return f"{name} charges no group by itself; take one that does"


def pack_of_job_end(name: str, other: int) -> str:
    return f"{name} is on a pack of job {other:04d}; end that charge first"


def read_clips_first(channel: str | None, group: int) -> str:
    return f"read the clips first, with {channel} off: plus on tap {group}, minus on tap {group - 1}"


def clips_read_they_touch(clip_v: float, group: int) -> str:
    return f"the clips read {figure(clip_v, 2)} V: they touch nothing. Clip to tap {group - 1} and tap {group}, and read again"


def clips_read_they(clip_v: float) -> str:
    return f"the clips read {figure(clip_v, 2)} V: they are the wrong way round. Nothing is switched on; turn them and read again"


def alike_alike_2(alike: list[int], alike_2: list[int]) -> str:
    return f", as {groups_words(alike).lower()} {'does' if len(alike_2) == 1 else 'do'}"


def clips_read_and_group(clip_v: float, which: str, group: int, rest: float) -> str:
    return f"the clips read {figure(clip_v, 2)} V{which}, and group {group} rests at {figure(rest, 2)} V: another pair of taps. Nothing is switched on"


def group_is_still_charging(group: int, channel: str) -> str:
    return f"group {group} is still charging, on {channel or 'a charger'}; end that first"


def group_end_that_charge(channel: str | None, group: int) -> str:
    return f"{channel} is on group {group}; end that charge first"


def both_not_isolated(channel: str | None, tied_channel: str) -> str:
    return f"{channel} and {tied_channel} are both not isolated: on one string they would short the groups between them. One after the other"


def group_is_not_charged(group: int, part: str) -> str:
    return f"group {group} is not charged. {part}"


def group_is_cut_out(group: int) -> str:
    return f"group {group} is cut out of this pack; there is nothing to charge"


def group_is_not_charged_2(group: int, barred: str | None) -> str:
    return f"group {group} is not charged. {barred}"


def group_is_not_charged_3(group: int, why: str) -> str:
    return f"group {group} is not charged. {why}"


def group_is_not_settled(group: int) -> str:
    return f"group {group} is not settled; read it in Probe first"


def group_has_new_cells(group: int) -> str:
    return f"group {group} has new cells that nobody has read in their place; read it in Probe first"


def above_full_nothing(over: list[int]) -> str:
    return f"{groups_words(over).lower()} {'stands' if len(over) == 1 else 'stand'} above full; nothing on this string is charged before that is let down"


def job_has_no_charge(charge_id: int) -> str:
    return f"this job has no charge {charge_id}"


def charge_of_group_has(group: int) -> str:
    return f"the charge of group {group} has ended already"


def pack_is_in_quarantine(quarantine: Sequence[str]) -> str:
    return f"the pack is in quarantine ({', '.join(quarantine)}); a release with name and reason must be recorded first"


def group_is_still(group: int) -> str:
    return f"group {group} is still on the charger; take it off and say so first"


def held_for_say_what(damaged: Sequence[str]) -> str:
    return f"it was held for {' and '.join(damaged)}: say what became of the damaged cells"


LEADS_READ_ALIKE = "leads of strings side by side read alike, tap for tap: no meter tells them apart. Part the strings and follow each wire by eye"
ONE_STRING = "this pack is one string; there is nothing to part or to join"
STRINGS_ARE_JOINED = "the strings are joined already"
STRINGS_ARE_PARTED = "the strings are parted already"
STRINGS_ARE_APART = "its strings are parted; bring them together in Level and join them first"
TERMINALS_ARE_ONE_STRINGS = (
    "the strings are parted: the terminals show one of them at most. Read each string by its own taps"
)


def strings_want_readings(count: int, given: int) -> str:
    return f"{counted(count, 'reading')} between plus ends, one for each string beside the first; {given} given"


def string_stands_apart(string: int, volts: float, most_v: float) -> str:
    name = string_name(string)
    return (
        f"{name} stands {volts_small(abs(volts))} {'above' if volts > 0 else 'below'} string A, and strings are joined within {volts_small(most_v)}: "
        f"{'the higher one would pour into the other' if abs(volts) < 1 else 'joined now, they would arc and weld'}. Level them first"
    )


def groups_say_otherwise(string: int, sums_v: float, volts: float) -> str:
    name = string_name(string)
    return (
        f"by their groups {name} stands {volts_words(abs(sums_v))} {'above' if sums_v > 0 else 'below'} string A, and the meter is said to read "
        f"{volts_words(volts)} between them: read both again"
    )


def group_does_not_exist(group: int, series: int) -> str:
    return f"group {group} does not exist: {series} in series"


def group_is_still_charging_end(group: int) -> str:
    return (
        f"group {group} is still charging; end that first, for two chargers on one string can short groups between them"
    )


def tap_does_not_exist(beyond: int, series: int) -> str:
    return f"tap {beyond} does not exist: {series} in series, so taps 0 to {series}"


def lead_belongs_there(lead: str) -> str:
    return f"lead {lead} belongs there"


def lead_is_not(lead: str, tap: int, belongs: str) -> str:
    return f"lead {lead} is not of tap {tap}: {belongs}"


def pin_comes_next(tap: int, lead: str) -> str:
    return f"pin {tap} comes next, with lead {lead}; one at a time and in order"


def job_has_photos_already(most_photos: int) -> str:
    return f"the job has {most_photos} photos already; pin what is missing on one of those"


def beyond_what_this_pack(amps: float, most: float) -> str:
    return f"{typed(amps)} A is beyond what this pack is for ({significant(most)} A at the most); test it at what its device draws"


def group_stays_in_no(group: int, why: str) -> str:
    return f"group {group} stays in no pack that is used. {why} Put other cells in, leave it out, or scrap the pack."


def not_done_lost_cells(why: str | None) -> str:
    return f"this is not done: lost cells are never kept in use. {why}"


def plan_rules_it_out(ruled_out: str) -> str:
    return f"the plan rules it out: {ruled_out} Say in a note why it is done all the same"


def list_comes_first(title: str, then: str, next_step: str) -> str:
    return f"“{title}” is not done: {next_step} first; “{then}” goes on after it"


def comes_first(action: str) -> str:
    return f"{action} first"


def ticked_off_already(action: str) -> str:
    return f"“{action}” is ticked off already"


def strips_are_not_enough(because: str) -> str:
    return f"the strips are not enough for the load: {because} Choose others in Strips, or say why it is joined all the same"

"""The fixed words of the bench: symptoms as customers say them, safety questions."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.acceptance import SOON_DAYS
from saldatura.battery.quantities import MOST_READINGS
from saldatura.battery.wording import counted, figure, significant, typed

if TYPE_CHECKING:
    from collections.abc import Set
    from datetime import datetime

    from saldatura.battery.verdict import Symptom
    from saldatura.job.facts.intake import Danger, Wish
    from saldatura.job.facts.work import Did
    from saldatura.job.run import Scheme
    from saldatura.job.stages import Standing


SYMPTOMS: dict[Symptom, str] = {
    "full_at_once": "charges to full at once",
    "dies_under_load": "dies under load",
    "short_run": "runs only a short while",
    "cuts_out": "cuts out, then comes back",
    "dead": "does nothing at all",
    "charger_refuses": "charger will not start",
    "fan_or_lamp_only": "light work only",
    "stood_unused": "stood unused for months",
    "was_dropped": "was dropped",
    "got_wet": "got wet",
}

# What a customer asks for: in their words, and what is said to it.
WISHES: dict[Wish, tuple[str, str]] = {
    "jump_start": (
        "wake it from another pack",
        "Not pack to pack: nothing limits the current, and the dead groups take all of it. Each group is brought up by itself, limited and "
        "watched, where it is above the floor; below it the cells are replaced.",
    ),
    "clear_flags": (
        "clear the chip's failure flag",
        "Not done here: the flag is evidence. What set it is found and mended; a chip that was cleared elsewhere is proved in full.",
    ),
    "cheapest": ("as cheap as possible", "Plan compares what each repair costs now and for each year of service."),
    "stronger": (
        "stronger cells",
        "Possible: same chemistry and voltage, cells alike within a group, their current rated for the measured load.",
    ),
    "one_fewer": (
        "one group fewer",
        "Only where device and charger allow it: the device must run on less voltage, and the charger is set to the new count.",
    ),
    "only_bad_cells": (
        "only the bad cells",
        "Possible; among aged cells new ones bring back only what the next weakest group holds. Plan shows both.",
    ),
}

SAFETY: dict[Danger, str] = {
    "swollen": "Is the case or a cell swollen?",
    "leaking": "Is anything leaking, or are there crystals?",
    "hot": "Is it warmer than the room with nothing connected?",
    "wet": "Is it wet, or was it under water?",
    "crushed": "Is a cell crushed, dented or punctured?",
    "smell": "Does it smell of solvent or burning?",
}

# What is done to a pack beside charging it.
DID: dict[Did, str] = {
    "cleaned": "Cleaned",
    "reseated": "Plugged in anew",
    "mended_wire": "Wire mended",
    "resoldered": "Soldered anew",
    "rewelded": "Welded anew",
    "insulated": "Insulated",
    "replaced_part": "Part replaced",
    "let_down": "Let down over a resistor",
    "dried": "Dried",
    "other": "Done",
}

# How a job stands that is at no stage.
STANDINGS: dict[Standing, str] = {"quarantine": "Quarantine", "done": "Handed back", "scrap": "Scrapped"}


FIRST_FACT_OF_JOB = "the first fact of a job is its intake"
THERE_IS_NO_INTAKE = "there is no intake, so nothing says what pack it is"
MACHINES_CLOCK_SAYS = "this machine's clock says"
PACKS_OWN_KIND = (
    "is it the pack's own kind of board, or of another make, and what does that lack? It stands on the papers"
)
NO_LEAD_READS_NOTE = "No lead reads 0 V: note the reference lead itself, which all are measured against."


def there_are_more_than(most_facts: int) -> str:
    return f"there are more than {most_facts}, the most a job may hold"


def year_is_none(year: int) -> str:
    return f"the year {year} cannot be right"


def dated_day_that_has(at: datetime) -> str:
    return f"it is dated {at:%Y-%m-%d}, a day in the future"


def number_is_given_twice(id_: int) -> str:
    return f"the number {id_} is given twice"


def has_number_and_comes(id_: int, last: int) -> str:
    return f"it has the number {id_} and comes after {last}; they go by their numbers"


def fact_of_shop_not(name: str) -> str:
    return f"{name} is a fact of the shop, not of a job"


def key_is_given(key: str) -> str:
    return f"the key {key} is given to two readings"


def set_holds_more_than() -> str:
    return f"a set holds more than {MOST_READINGS} readings"


def set_it_right_first(whose: str, when: datetime) -> str:
    return f"{whose} {when:%Y-%m-%d}; is that so? Set it right first where it is not"


def has_this_charge_finished(why_odd: str) -> str:
    return f"{why_odd}; has this charge finished all the same? It is kept with its looks, and Prove asks for another"


def from_counted(count: float) -> str:
    return f": {significant(count / 1000)} Ah, from {typed(count)} mAh"


def counted_where_give(count: float, current_a: float, most: float, or_: str) -> str:
    return f"{typed(count)} Ah counted, where {typed(current_a)} A give {figure(most, 2)} Ah in that time; is it meant{or_}?"


def nothing_odd(seen: Set[str]) -> str:
    return f"“nothing odd” and “{', '.join(sorted(seen - {'nothing'}))}” in one note; are both meant?"


def nothing_odd_is_noted(before: Set[str]) -> str:
    return f"“nothing odd” is noted, and “{', '.join(sorted(before))}” was seen before; is it meant of another part?"


def from_ah(ah: float) -> str:
    return f": {typed(ah / 1000)} Ah, from {typed(ah)} mAh"


def is_cell_more_than(ah: float, each: float, or_: str) -> str:
    return f"{typed(ah)} Ah is {typed(each)} Ah a cell, more than any small pack's; is it meant{or_}?"


def is_cell_less_than(ah: float, each: float, or_: str) -> str:
    return f"{typed(ah)} Ah is {typed(each * 1000)} mAh a cell, less than any tool's; is it meant{or_}?"


def amps(amps: float) -> str:
    return f": {typed(amps / 1000)} A, from {typed(amps)} mA"


def times_what_give(amps: float, rated_ah: float, or_: str) -> str:
    return f"{typed(amps)} A is {counted(round(amps / rated_ah), 'time')} what {typed(rated_ah)} Ah give in an hour; is it meant{or_}?"


def guess(guess: str) -> str:
    return f", or is it{guess.removeprefix(':')}"


def nothing_is_joined_yet(because: str, lower: str, upper: str) -> str:
    return (
        f"Join nothing yet: {because}. Measure {lower} and {upper} once more; if they read the same, it is the cells."
    )


def nothing_is_joined_yet_2(because: str) -> str:
    return f"Join nothing yet: {because}."


def nothing_is_joined_yet_find(because: str) -> str:
    return f"Join nothing yet: {because}. Find its tap or take it off the list."


def nothing_is_joined_yet_no(missing: list[int]) -> str:
    return f"Join nothing yet: no lead comes from tap {', '.join(map(str, missing))}. Measure the leads still to come, or mend the wire."


def tap_so_lead(tap: int, lead: str) -> str:
    return f"tap {tap}, so lead {lead}"


def group_is_charging_switch(charging: int) -> str:
    return f"Group {charging} is charging: switch the charger off at the mains first, then take its clips off and carry it away. No reading."


def none_has_been_out() -> str:
    return f"No pack has been out for {figure(SOON_DAYS, 0)} days yet, so plans do not count it."


def were_out_days(tried: int, soon: int) -> str:
    return f"Of {tried} that were out {figure(SOON_DAYS, 0)} days or came back before, {soon} came back"


def later_later(later: int) -> str:
    return f", and {later} later."


def taps_and_are_reached(a: int, b: int) -> str:
    return f"taps {a} and {b} are reached without opening"


def checks_groups_to_together(first: int, k: int) -> str:
    return f"checks groups {first} to {k} together"


def settles_group_by_itself(k: int) -> str:
    return f"settles group {k} by itself"


def nothing_reads_tap_yet(tap: int) -> str:
    return f"nothing reads tap {tap} yet"


def ties_taps(tap: int, tap_2: int, series: int) -> str:
    return f"ties taps {tap} to {tap_2} to the rest of the {counted(series, 'group')}"


def job_went_on_since(words_of: str) -> str:
    return f"the job went on since: {words_of}"


def pack_it_made(words_of: str) -> str:
    return f"the pack it made was worked on since ({words_of}); take that back first"


SCHEME_WORDS: dict[Scheme, str] = {
    "taps": "taps against tap 0",
    "groups": "group by group",
    "mixed": "groups, checked by taps",
    "outside": "from outside",
    "needed": "only what is still needed",
}

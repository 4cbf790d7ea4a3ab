"""What this package says: sentences with what goes into them, each named by its first words."""

from typing import TYPE_CHECKING

from saldatura.battery.wording import agree, counted, degrees, figure, percent, significant, volts_small

if TYPE_CHECKING:
    from saldatura.battery.smart.types import RegistersSay

NOTHING_READ = "give at least one word or block; nothing was read"
NO_BLOCK = "a block is up to 32 bytes in hex, such as 4c494f4e, without its length"


def no_register(key: str) -> str:
    return f"“{key}” is no register; write its number as 0x09"


def cells_add_up_to(difference_v: float) -> str:
    more = "more" if difference_v > 0 else "less"
    return f"Its cells add up to {volts_small(abs(difference_v))} {more} than the pack says."


def says_full_and(soc: float, remaining: float, full: float, unit: str) -> str:
    return f"It says {percent(soc)} full and {_amount(remaining)} of {_amount(full)} {unit}."


def says_absolute_and(soc: float, remaining: float, design: float, unit: str) -> str:
    return f"It says {percent(soc)} of its design and {_amount(remaining)} of {_amount(design)} {unit}."


def more_left_than_fits(remaining: float, full: float, unit: str) -> str:
    return f"It says {_amount(remaining)} {unit} are left of {_amount(full)} {unit}: more than fit."


def full_far_over(full: float, design: float, unit: str) -> str:
    return f"It says it holds {_amount(full)} {unit} when full, designed for {_amount(design)} {unit}: its count was never learned, or is of other cells."  # fmt: skip


def charge_against_volts(soc: float, low: float, high: float) -> str:
    return f"It says {percent(soc)} full; its cells at rest say {figure(100 * low, 0)} to {percent(high)}. The count is lost: charge it fully once."  # fmt: skip


def flagged_full_at(soc: float) -> str:
    return f"It flags full, and says {percent(soc)}."


def flagged_empty_at(soc: float) -> str:
    return f"It flags empty, and says {percent(soc)}."


def flagged_discharging_with(current_a: float) -> str:
    return f"It flags discharging while {significant(current_a)} A flow in."


def not_flagged_discharging(current_a: float) -> str:
    return f"It does not flag discharging while {significant(abs(current_a))} A flow out."


def voltage_against_meter(chip_v: float, meter_v: float) -> str:
    return f"It says {figure(chip_v, 2)} V; the meter reads {figure(meter_v, 2)} V on the string."


def cell_against_meter(group: int, chip_v: float, meter_v: float) -> str:
    return f"It says group {group} has {figure(chip_v, 3)} V; the meter reads {figure(meter_v, 3)} V: look at that sense wire."


def design_against_label(design_ah: float, labelled_ah: float) -> str:
    return f"It is designed for {significant(design_ah)} Ah; the label says {significant(labelled_ah)} Ah."


def impossible_date(word: str) -> str:
    return f"Its date of manufacture ({word}) is no day of any year."


def date_against_age(year: int, age_years: float) -> str:
    return f"It says it was made in {year}; the pack is told to be {counted(age_years, 'year')} old."


def date_to_come(year: int) -> str:
    return f"It says it was made in {year}, which has not come."


def few_cycles_for_age(cycles: int, age_years: float) -> str:
    return f"It counts {counted(cycles, 'cycle')} in {counted(age_years, 'year')}: the count was set back, or the board is of another pack."


def impossible_temperature(celsius: float) -> str:
    return f"It says {degrees(celsius)}: its sensor is open or shorted."


def impossible_share(name: str, word: int) -> str:
    return f"Its {name} is {word} %: no share of anything."


def impossible_cell(group: int, volts: float) -> str:
    return f"It says group {group} has {figure(volts, 2)} V: no cell has."


def pec_wrong(registers: list[str]) -> str:
    many = len(registers)
    return f"{counted(many, 'word')} came with a wrong check code ({', '.join(registers[:6])}): {agree(many, 'it is', 'they are')} not used; look at the wires."  # fmt: skip


HEALTHY_BUT_NO_CURRENT = (
    "It says it is healthy, and no current flows: look along the path from the string to the terminals."
)
ANSWERS_ONLY_FED = "It answers only while it is fed from outside: its own supply is broken."


def stopped_though_charged(soc: float) -> str:
    return f"It orders the discharge to stop with {percent(soc)} left: look for its lowest group."


def _amount(value: float) -> str:
    return significant(value, 4)


def chip_says(say: "RegistersSay") -> str:
    """What a chip says in a line: charge, capacities, health and cycles as far as they were read, and how much contradicts."""
    full, design = (say.full_ah, say.design_ah) if say.full_ah is not None else (say.full_wh, say.design_wh)
    unit = "Ah" if say.full_ah is not None else "Wh"
    parts = [f"{percent(say.relative_soc)} full"] if say.relative_soc is not None else []
    if full is not None:
        of_design = f" of {_amount(design)}" if design is not None else ""
        parts.append(f"{_amount(full)}{of_design} {unit} when full")
    parts += [counted(say.cycles, "cycle")] if say.cycles is not None else []
    parts += [f"{figure(say.voltage_v, 2)} V"] if say.voltage_v is not None else []
    parts += [f"alarm: {', '.join(a.replace('_', ' ') for a in say.alarms)}"] if say.alarms else []
    opening = f"Its chip says {', '.join(parts)}." if parts else "Its chip answers."
    against = [c.because for c in say.contradictions]
    return " ".join([opening, *against[:3]])


def current_against(chip_a: float, beside_a: float) -> str:
    return f"Its current word says {figure(chip_a, 2)} A; {figure(beside_a, 2)} A flow."


def terminals_above(chip_v: float, beside_v: float) -> str:
    return f"Its voltage word says {figure(chip_v, 2)} V; the terminals have {figure(beside_v, 2)} V."


CONTACT_NOT_READ = "Read it as it is, then through 10 kΩ to 3.3 V."
CONTACT_HELD_LOW = "Held low: an enable contact, a switch to minus, or a chip that sleeps. Leave it."


def contact_is_power(volts: float) -> str:
    return f"{figure(volts, 1)} V: a supply, no data wire. Nothing goes on it."


def contact_idles_high(volts: float) -> str:
    return f"Idles at {figure(volts, 1)} V: a data wire that the pack pulls up itself."


def contact_goes_up(volts: float) -> str:
    return f"Goes up to {figure(volts, 1)} V through 10 kΩ: a data wire, or nothing at all."


def contact_is_resistor(ohm: float) -> str:
    return f"About {significant(ohm / 1000, 2)} kΩ to minus: a temperature sensor or a coding resistor."


def pair_is(first: str, second: str) -> str:
    return f"{first} and {second}: minus first, then each through 330 Ω to the adapter. Silent? Exchange the two once; that harms nothing."  # fmt: skip


def read_next(contact: str) -> str:
    return f"Read {contact} next."


def no_pair(count: int) -> str:
    if count > 2:
        return f"{counted(count, 'contact')} could be data wires: try them two by two, each through 330 Ω."
    return "No two contacts are free to be data wires: this pack may have no chip, or one that sleeps until it is fed."

"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.limits.joining import MOST_RATIO, UNRATED_C
from saldatura.battery.quantities import time_words, volts_words
from saldatura.battery.wording import agree, counted, figure, ohms_small, percent, significant, volts_small

BETTER_DRAWER_WOULD_BRING = "A better drawer would bring next to nothing: the cells taken are nearly alike."
GIVE_CAPACITY_OR_RATED = "give capacity_ah, or rated_ah where the cell was never tested"
SAY_IN_WANTED_HOW = "say in wanted_ah how much each group must hold"


def cell_is_listed_twice(twice: str) -> str:
    return f"cell {twice} is listed twice; a cell can be in one place only"


def needed_p(usable_count: int, need: int, series: int, parallel: int) -> str:
    return f"{counted(usable_count, 'cell fits', 'cells fit')} and {need} {agree(need, 'is', 'are')} needed ({series}S{parallel}P)"


def does_not(cell: str, because: str) -> str:
    return f"; {cell} does not: {because}"


def no_grouping(wanted_ah: float | None, bound: float) -> str:
    return f"no grouping of this drawer reaches {significant(wanted_ah)} Ah in every group; the most is about {significant(bound, 4)} Ah"


def not_tested_counted(cell_names: str, untested_share: float, new_share: float) -> str:
    return f"{cell_names} not tested: counted at {percent(untested_share)} of the rating, new ones at {percent(new_share)}. Test before welding."


def not_read_read_each(cell_names: str) -> str:
    return f"{cell_names} not read: read each at rest before any are joined."


def what_may_carry(cell_names: str, load_a: float, parallel: int) -> str:
    return f"What {cell_names} may carry is not known: each would carry about {significant(load_a / parallel)} A. Look it up in the data sheet first."


def group_are_more_than(wanted: float, bound: float) -> str:
    return f"{significant(wanted, 4)} Ah a group are more than this drawer can give; the most is {significant(bound, 4)} Ah"


def and_no_data_sheet() -> str:
    return f"{figure(UNRATED_C, 0)} C, and no data sheet says that it may"


def cell_would_carry_more(load_a: float | None, cell: str, may_carry: str) -> str:
    return f"at {significant(load_a)} A cell {cell} would carry more than {may_carry} in any grouping; a lower load, more in parallel, or cells of like resistance"


def read_first_cells(cell_names: str) -> str:
    return f"Read {cell_names} first: cells that nobody read are not joined."


def bring_to_one_voltage(cell: str, low_cell: str, spread: float, amps: float, levelling: str) -> str:
    return f"Bring to one voltage first: {cell} and {low_cell} rest {volts_small(spread)} apart, some {significant(amps, 2)} A would flow between them when joined.{levelling}"


def takes_about_at_half(cell: str, hours: float) -> str:
    return f" {cell} takes about {time_words(max(hours, 0.0) * 3600)} at half of C to come up."


def each_group_reaches(smallest: float, usable_count: int, need: int) -> str:
    return f"Each group reaches {significant(smallest, 4)} Ah; {counted(usable_count - need, 'cell that fits stays', 'cells that fit stay')} in the drawer."


def like_best_smallest_group(cells: str, best: float, smallest: float, gain: float) -> str:
    return f"With {cells} like the best ({significant(best)} Ah) the smallest group would hold up to {significant(smallest + gain, 4)} Ah instead of {significant(smallest, 4)} Ah."


def no_cells_of_like(need: int, ohm: float, ohm_2: float) -> str:
    return f"no {need} cells of like resistance: they lie between {ohms_small(ohm)} and {ohms_small(ohm_2)}, and those side by side may be {figure(MOST_RATIO, 0)} times apart at most; sort new ones from used ones"


def among_cells(low: float, high: float) -> str:
    return f"among cells of {ohms_small(low)} to {ohms_small(high)}: side by side the current would not share"


def more_cells_count(cells_count: int) -> str:
    return f" and {cells_count - 4} more"


def among_one_chemistry(name: str, chemistry_name: str) -> str:
    return f"{name} among {chemistry_name}: one chemistry and one window in a string"


def rests_at(rest_v: float) -> str:
    return f"it rests at {volts_words(rest_v)}"


def reversed_never_used_again(rests: str) -> str:
    return f"{rests}, reversed: never used again"


def more_than_nickel_cell(rests: str) -> str:
    return f"{rests}, more than a nickel cell holds: read it again"


def under_floor_of_never(rests: str, rest_floor_v: float) -> str:
    return f"{rests}, under the floor of {figure(rest_floor_v, 1)} V: never used again"


def run_flat_below(rests: str, charge_normally_from_v: float) -> str:
    return f"{rests}, run flat: below {figure(charge_normally_from_v, 1)} V it is brought up gently by itself, rested a day and tested first"


def above_that_is_full(rests: str, full_v: float) -> str:
    return f"{rests}, above the {figure(full_v, 2)} V that is full: let down and watched, not joined to others"

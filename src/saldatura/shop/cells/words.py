"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import figure, percent, volts_small

if TYPE_CHECKING:
    from saldatura.shop.cells.types import Seen

CAPACITY_IS_NOT_MEASURED = "its capacity is not measured"
TYPE_IS_NOT = "its type is not in the catalogue"
HOLDS_NO_VALUE_GIVE = "holds no value; give a capacity, a resistance, a rest voltage or what was seen"
SAY_FOR_WHICH_JOB = "say for which job"
SAY_INTO_WHICH_GROUP = "say into which group"


def cell_is_named_twice(twice: str) -> str:
    return f"cell {twice} is named twice; a cell can be in one place only"


def there_is_no_cell(part: str) -> str:
    return f"there is no cell {part}; Cells lists those there are"


def built_into_group(group: int | None, job: int | None) -> str:
    return f"built into group {group} of job {job:04d}"


def set_aside_for_job(job: int | None) -> str:
    return f"set aside for job {job:04d}"


def cell_is_scrapped_nothing(name: str) -> str:
    return f"cell {name} is scrapped; nothing brings it back"


def say_why_cell(name: str, job: int | None) -> str:
    return f"say why cell {name} is taken out of job {job:04d}"


def cell_is_it_can(name: str, where: str) -> str:
    return f"cell {name} is {where}; it can be in one place only"


def cell_is_not(name: str, because: str) -> str:
    return f"cell {name} is not for packs: {because}"


def cell_is_used(name: str) -> str:
    return f"cell {name} is used and not tested: measure its capacity first"


def pack_one_chemistry(name: str, chemistry_name: str, chemistry_name_2: str) -> str:
    return f"{name} is {chemistry_name}, the pack {chemistry_name_2}: one chemistry in a string"


def named_group(cells_count: int, parallel: int) -> str:
    return f"{cells_count} named; a group of this pack is {parallel} cell{'s' if parallel > 1 else ''} in parallel"


def cell_was_tested(made_up: str) -> str:
    return f"cell {made_up} was tested by a stand-in only; test it really before it goes into a real pack"


def rest_apart_bring_them(high: str, low: str, high_2: float, low_2: float) -> str:
    return f"{high} and {low} rest {volts_small(high_2 - low_2)} apart: bring them to one voltage, read them again, then join them"


def rested_at_reversed(lowest: float) -> str:
    return f"it rested at {volts_words(lowest)}, reversed"


def rested_at_under_floor(lowest: float, rest_floor_v: float) -> str:
    return f"it rested at {volts_words(lowest)}, under the floor of {figure(rest_floor_v, 1)} V"


def holds_of_what(share: float) -> str:
    return f"it holds {percent(share)} of its rating"


def resistance_is_times_usual(z: float) -> str:
    return f"its resistance is {figure(z, 1)} times the usual spread above its siblings'"


def loses_month_at_rest(loss: float) -> str:
    return f"it loses {percent(loss)} a month at rest"


# What is seen on a cell that no rule of any shop lets into a pack; a torn wrap is mended.
NEVER: dict[Seen, str] = {
    "dent": "it is dented: what lies under a dent nobody sees",
    "leak": "it leaks",
    "swollen": "it is swollen",
    "reversed": "it was reversed",
    "unfinished": "it did not finish its test",
}


BEFORE_USE: dict[Seen, str] = {"wrap": "its wrap is torn: a new one before it goes anywhere", "rust": "it is rusty"}

"""What `types` says."""

from saldatura.battery.wording import significant

MORE_CAME_BACK_THAN = "more came back than went out"


def group_does_not_exist(beyond: int, series: int) -> str:
    return f"group {beyond} does not exist: {series} in series"


def group_is_listed_twice(twice: int) -> str:
    return f"group {twice} is listed twice; give each group once"


def causes_probabilities_sum(total: float) -> str:
    return f"the causes' probabilities sum to {significant(total)}; they are shares of one belief, at most 1"

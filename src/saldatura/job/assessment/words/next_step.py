"""What `next_step` says."""

from saldatura.battery.quantities import groups_words

RELEASE_IT_OR_CLOSE = "Release it, or close it as scrap"
ANSWER_SAFETY_SCREEN = "Answer the safety screen"
CLOSE_OR_TAKE_APART = "Close the job, or take it apart by its list in Join"
OPEN_ITS_WORK_LIST = "Open its work list in Join"
RECORD_WORK_WHEN = "Record the work when it is done"
GO_ON_TO_HAND = "Go on to Hand over"


def go_on_with_list(title: str, title_2: str) -> str:
    return f"Go on with the list: {title.lower()}{title_2}"


def read_new_cells(new: list[int]) -> str:
    return f"Read the new cells of {groups_words(new).lower()}"


def plan_what_becomes(lost: list[int]) -> str:
    return f"Plan what becomes of {groups_words(lost).lower()}"

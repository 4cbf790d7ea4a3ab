"""What `case` says."""

CELLS_OWN_TABS = ", on the cells' own tabs"
OWN_TWO_TABS = "its own two tabs"


def read_across_once_more(name_groups: str, whose: str) -> str:
    return f"Read {name_groups.lower()} across {whose} once more, to rule out an open sense wire."

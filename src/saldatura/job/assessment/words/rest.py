"""What `rest` says."""

SET_UNDER_LOAD = "the set under load"


def charge_of_group(group: int) -> str:
    return f"the charge of group {group}"


def which_still_runs(what: str) -> str:
    return f"{what}, which still runs"


def charge_of_group_which(group: int) -> str:
    return f"the charge of group {group}, which was cancelled"

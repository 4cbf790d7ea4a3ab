"""What `net_types` says."""


def listed_twice_name(what: str, twice: str) -> str:
    return f"{what} {twice} is listed twice; a name for each"


def segment_begins_and_ends(segment: str, from_: str) -> str:
    return f"segment {segment} begins and ends at {from_}; name two nodes"

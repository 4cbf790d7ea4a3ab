"""What `combined` says."""

ONE_OPENING = "In one opening: the case is opened, closed and proved once."


def and_too(one: str, other: str) -> str:
    return f"{one}, and {other[0].lower()}{other[1:]}"


def both_risks(one: str, other: str) -> str:
    return one if one == other else f"{one} {other}"

"""What `hands` says."""


def over(kind: str, group: int | None) -> str:
    match kind:
        case "charge":
            return f"Look at the charge of group {group}"
        case "rest":
            return "Read it: its rest is over"
        case "cure" | "cool":
            return "Go on with the list: it has set"
        case "capacity":
            return "Look at the capacity test"
        case _:
            return "Read the groups again for self-discharge"

"""What `value` says."""


def saves_on_average(says: str, because: str) -> str:
    return f"{says}: it may change the choice, and saves more on average than it costs. {because[:1].upper()}{because[1:]}."

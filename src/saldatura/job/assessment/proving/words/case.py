"""What `case` says."""


def before_last_work(what: str) -> str:
    return f"This {what} is from before the last work on the pack: once more."

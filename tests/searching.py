"""How far a search goes: a few examples at every run of the tests, and as many times more as `make search` asks for, each time others."""

import os

MORE = float(os.environ.get("SALDATURA_SEARCH", "1"))


def examples(few: int) -> int:
    """So many examples, or more of them."""
    return max(1, round(few * MORE))

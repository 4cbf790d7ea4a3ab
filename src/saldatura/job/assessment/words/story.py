"""What `story` says."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from saldatura.battery.wording import volts_small

if TYPE_CHECKING:
    from collections.abc import Mapping

    from saldatura.job.facts.becoming import BoardLacks
    from saldatura.job.facts.fitted import PutIn

PACKS_OWN_KIND = "The pack's own kind of board"
BOARD_OF_ANOTHER_MAKE = "A board of another make"
PACK_HAS_NO_BOARD = "The pack has no board now"


def group_was_left_out(group: int, because: str, agreed_with: str) -> str:
    return f"Group {group} was left out: {because.strip()}. Agreed with {agreed_with}"


def lacks_lacks(lacks: str) -> str:
    return f"; it lacks {lacks}"


def put_in(what: str, lacks: str) -> str:
    return f"{what} was put in{lacks}"


def confirmed_cause_where_why(confirmed: bool, cause: str, where: str, why: str, by: str) -> str:
    return f"{'Confirmed' if confirmed else 'Judged to be'}: {cause}{where}{why}. By {by}."


ORIGIN_WORDS: Mapping[PutIn, str] = {"new": "new cells", "used": "used cells", "donor": "cells from a donor"}


LACKS_WORDS: Mapping[BoardLacks, str] = {
    "temperature": "a temperature cut-off", "fuse": "a fuse", "group_limits": "limits for each group", "balancing": "balancing",
}  # fmt: skip


def was_done(did: str, said: str, board: str, by: str) -> str:
    return f"{did}: {said}.{board} By {by}."


def strings_say(joined: bool, apart_v: Sequence[float], by: str) -> str:
    """That strings were parted, or joined and how near they stood."""
    if not joined:
        return f"The strings were parted. By {by}."
    return f"The strings were joined, {volts_small(max(abs(v) for v in apart_v))} apart. By {by}."

"""What `parts` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from saldatura.battery.join.parts import PartKind

SAY_WHAT_IT_IS = "say what the part is"

PART_WORDS: dict[PartKind, str] = {
    "riser": "riser", "spacer": "spacer", "weight": "weight", "sheet": "insulating sheet", "top_piece": "top piece", "springs": "springs",
    "sensor": "sensor", "tape": "tape", "shrink": "shrink sleeve", "glue": "glue", "other": "part",
}  # fmt: skip


def called(part: PartKind, name: str, where: str) -> str:
    return (name or PART_WORDS[part]) + (f", {where}" if where else "")

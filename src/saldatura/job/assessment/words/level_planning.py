"""What `level_planning` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import time_words
from saldatura.battery.wording import figure

if TYPE_CHECKING:
    from saldatura.job.assessment.level_planning import OptionCode

SHOP_HAS_TOLD_NONE = "the shop has none yet; add its chargers and supplies in Instruments"
EVERY_CHANNEL = "every channel is in use or left out; free one"
WHAT_ALL_ARE_MATCHED = "what all are matched at is the plan's choice; give the rest voltage that it names"
NO_GROUP_IS_SETTLED = "no group is settled yet; read every group in Probe first"
ANOTHER_GROUP_IS_ASKED = "Another group is asked about."
AS_ASKED = "as asked"
TARGETS: dict[OptionCode, str] = {
    "full": "full instead", "match": "matched instead", "storage": "at storage instead",
}  # fmt: skip


def rest_is_not_that_target(rest_v: float, target: str, named_v: float) -> str:
    return f"{figure(rest_v, 3)} V at rest is not {target}, {figure(named_v, 3)} V; plan it anew"


def begun_in(seconds: float) -> str:
    return f"begun in {time_words(seconds)}"


def one_more_like(name: str) -> str:
    return f"with one more like {name}"


def group_is_at_target(group: int) -> str:
    return f"group {group} is at the target already; nothing to charge"


def now_on(on: str) -> str:
    return f"It is on {on or 'a charger'} now."

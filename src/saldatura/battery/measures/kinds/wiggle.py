"""A part moved while a meter watched."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.judge.types import Evidence
from saldatura.battery.measures.evidence import MovingChanges
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import Pack, Words
from saldatura.battery.wording import counted, figure

Watched = Literal["sensor", "blink", "group_v", "output"]
# What was watched, by a word in the name of the part that was moved; else the output.
WATCHED: dict[str, Watched] = {
    "sensor": "sensor", "thermistor": "sensor", "blink": "blink", "lamp": "blink", "sense": "group_v", "balance": "group_v", "tap": "group_v"
}  # fmt: skip


class WiggleMeasure(Measure):
    """A part moved while a meter watched: for how long, and when it dropped out, s from the start. `dropped`: the closed
    pack was let fall from a hand's breadth as well.
    """

    kind: Literal["wiggle"] = Field("wiggle", description="Which kind it is.")
    part: Annotated[Words, Field(max_length=60)] = Field("", description="The part that lies before the node.")
    seconds: Annotated[float, Field(gt=0, le=86_400)] = Field(description="How long the discharge took, s.")
    dropouts_s: Annotated[list[Annotated[float, Field(ge=0, le=86_400)]], Field(max_length=1000)] = []
    dropped: bool = False

    def said(self, rated_ah: float) -> str:
        part = self.part.strip() or "a part"
        if not self.dropouts_s:
            return f"Held all of {figure(self.seconds, 0)} s while {part} was moved."
        count = len(self.dropouts_s)
        times = ", ".join(f"{figure(s, 1)}" for s in self.dropouts_s[:6]) + (" and later" if count > 6 else "")
        return f"{counted(count, 'drop-out')} in {figure(self.seconds, 0)} s while {part} was moved, at {times} s."

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        what = next((w for word, w in WATCHED.items() if word in self.part.lower()), "output")
        yield MovingChanges(what=what, changes=bool(self.dropouts_s))

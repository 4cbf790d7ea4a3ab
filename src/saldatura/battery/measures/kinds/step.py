"""A logged step in current."""

from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field

from saldatura.battery.judge.measured import Resistance
from saldatura.battery.judge.types import Evidence
from saldatura.battery.measures.kinds.base import Current, Measure
from saldatura.battery.measures.step import StepRequest, step, thinned
from saldatura.battery.quantities import Pack


class StepMeasure(Measure):
    """A logged step in current."""

    kind: Literal["step"] = Field("step", description="Which kind it is.")
    log: StepRequest

    @property
    def about(self) -> int | None:
        return self.log.group

    @property
    def of_string(self) -> bool:
        return self.log.group is None

    @property
    def current(self) -> Current:
        return Current(max(abs(point.amps) for point in self.log.points), "the logged step")

    def renumbered(self, group: int) -> Self:
        return self.model_copy(update={"log": self.log.model_copy(update={"group": group})})

    def kept(self, rated_ah: float) -> "StepMeasure":
        """Thinned about its step. Raises Impossible for a log without one."""
        step(self.log)
        return StepMeasure(log=thinned(self.log))

    def said(self, rated_ah: float) -> str:
        return step(self.log).says

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        found = step(self.log)
        for ohm, after_s in ((found.at_once_ohm, 0.5), (found.ten_s_ohm, 10.0)):
            if self.log.group is not None and ohm is not None and 0 < ohm <= 1000:
                yield Resistance(group=self.log.group, ohm=ohm, after_s=after_s)

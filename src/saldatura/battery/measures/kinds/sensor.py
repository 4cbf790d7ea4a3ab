"""A temperature sensor."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from saldatura.battery.judge.measured import SensorOhm
from saldatura.battery.judge.types import Evidence
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.measures.sensor import USUAL_B_K, USUAL_R25_OHM, SensorRequest, sense
from saldatura.battery.quantities import Pack


class SensorMeasure(Measure):
    """A temperature sensor as read."""

    kind: Literal["sensor"] = Field("sensor", description="Which kind it is.")
    sensor: SensorRequest

    def said(self, rated_ah: float) -> str:
        return sense(self.sensor).says

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        sensor = self.sensor
        if sensor.ohm is not None:
            # The usual values are what the form begins with, not what is known.
            known = (sensor.r25_ohm, sensor.b_k) != (USUAL_R25_OHM, USUAL_B_K)
            yield SensorOhm(
                ohm=sensor.ohm, ambient_c=sensor.ambient_c, r25_ohm=sensor.r25_ohm if known else None, b_k=sensor.b_k if known else None
            )  # fmt: skip

"""Temperature sensors of a pack: a thermistor's resistance, what its connector makes of it, and what is read from it.

R(T) = R25·exp(B·(1/T − 1/298.15 K)), T in kelvin (the B-parameter equation of IEC 60539-1).
"""

import math
from typing import Annotated

import numpy as np
from pydantic import Field

from saldatura.battery.pack.faults import Fault, SensorFault
from saldatura.battery.quantities import Value

REFERENCE_K = 298.15
# Below this it is a short, whatever its size.
LEAST_OHM = 1e-9
OPEN_OHM = 1e9
OPEN_WHILE_MOVED = 0.5


class Thermistor(Value):
    """An NTC by its resistance at 25 °C and its B value in kelvin."""

    r25_ohm: Annotated[float, Field(gt=0, le=1e7)] = Field(
        10_000.0, description="Resistance of the thermistor at 25 °C, ohm. Default 10 kΩ, the commonest."
    )
    b_k: Annotated[float, Field(ge=500, le=10_000)] = Field(
        3435.0, description="B value of the thermistor, K. Default 3435 K, the commoner of two usual ones."
    )

    def ohm(self, celsius: float) -> float:
        """Resistance at a temperature."""
        return self.r25_ohm * math.exp(self.b_k * (1 / (celsius + 273.15) - 1 / REFERENCE_K))

    def celsius(self, ohm: float) -> float:
        """Temperature at a resistance in ohm; −273.15 for an open one, and no limit upward for a shorted one."""
        if ohm <= 0:
            return math.inf
        inverse = 1 / REFERENCE_K + math.log(max(ohm, LEAST_OHM) / self.r25_ohm) / self.b_k
        return 1 / inverse - 273.15 if inverse > 0 else math.inf


def sensor_ohm(
    thermistor: Thermistor,
    sensor: int,
    celsius: float,
    faults: tuple[Fault, ...],
    moved: bool,
    rng: np.random.Generator,
) -> float:
    """What an ohmmeter reads at sensor `sensor` of a pack with these faults; `moved` while somebody moves the part."""
    ohm = thermistor.ohm(celsius)
    for fault in faults:
        if not isinstance(fault, SensorFault) or fault.sensor != sensor:
            continue
        if fault.kind == "open" or (fault.kind == "dirty" and moved and rng.random() < OPEN_WHILE_MOVED):
            return OPEN_OHM
        ohm = 0.0 if fault.kind == "shorted" else ohm + fault.ohm
    return ohm

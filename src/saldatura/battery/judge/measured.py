"""Numeric evidence on a pack, by the names of the contract. Charging current is positive."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.measures.evidence import GaugeShows, Node, RailVolts, Temperature
from saldatura.battery.quantities import Celsius, GroupNumber, TapNumber, Value, Volts

Condition = Literal["rest", "load", "charging"]
Hours = Annotated[float, Field(ge=0, le=100_000)]


class _Read(Value):
    """A voltage, and under what it was read. A current that is not given is the pack's usual load."""

    volts: Volts = Field(description="Volts.")
    condition: Condition = Field(
        "rest", description="Whether the pack rested, gave current or took it. Default `rest`."
    )
    current_a: Annotated[float, Field(ge=-10_000, le=10_000)] | None = Field(
        None, description="Charging current, A. Default: half of C (policy), less where cold or run flat."
    )
    rested_h: Hours | None = Field(None, description="Hours since the last current, where known. Default: not known.")
    sigma_v: Annotated[float, Field(ge=0, le=5)] | None = Field(None, description="Standard uncertainty, V.")


class GroupVolts(_Read):
    """Across one group, at its pins."""

    kind: Literal["group_v"] = Field("group_v", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")


class TapVolts(_Read):
    """Tap `tap` against tap 0, at the pins."""

    kind: Literal["tap_v"] = Field("tap_v", description="Which kind it is.")
    tap: TapNumber = Field(description="Number of the tap, from 0 at pack minus.")


class SpanVolts(_Read):
    """From one tap to a higher one, at the pins."""

    kind: Literal["span_v"] = Field("span_v", description="Which kind it is.")
    from_tap: TapNumber = Field(description="Lower tap; of a reading, where the black probe is.")
    to_tap: TapNumber = Field(description="Upper tap; of a reading, where the red probe is.")


class TerminalVolts(_Read):
    """At the pack's own terminals."""

    kind: Literal["terminal_v"] = Field("terminal_v", description="Which kind it is.")


class DirectVolts(_Read):
    """Across one group, on the cells' own tabs."""

    kind: Literal["cell_direct_v"] = Field("cell_direct_v", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")


class Resistance(Value):
    """Resistance of a group from a step in current, so many seconds after it."""

    kind: Literal["resistance"] = Field("resistance", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ohm: Annotated[float, Field(gt=0, le=1000)] = Field(description="Resistance, ohm.")
    after_s: Annotated[float, Field(ge=0, le=3600)] = Field(
        10.0, description="Seconds after the step in current. Default 10 s."
    )


class Acir(Value):
    """Resistance of a group at 1 kHz."""

    kind: Literal["acir"] = Field("acir", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ohm: Annotated[float, Field(gt=0, le=1000)] = Field(description="Resistance, ohm.")


class CapacityTest(Value):
    """Capacity from full to empty, of a group or of the whole pack."""

    kind: Literal["capacity"] = Field("capacity", description="Which kind it is.")
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    ah: Annotated[float, Field(ge=0, le=10_000)] = Field(description="Discharged charge, Ah.")


class Leak(Value):
    """What a group loses beyond its siblings, as a current."""

    kind: Literal["leak"] = Field("leak", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ma: Annotated[float, Field(ge=-1000, le=10_000)] = Field(description="The leak beyond the siblings', mA.")


class RestFall(Value):
    """How far a group fell at rest beyond its siblings, in so many hours."""

    kind: Literal["rest_fall"] = Field("rest_fall", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    mv: Annotated[float, Field(ge=-5000, le=5000)] = Field(description="Fall beyond the siblings', mV.")
    hours: Annotated[float, Field(gt=0, le=100_000)] = Field(description="Hours between the two readings.")


class SensorOhm(Value):
    """A temperature sensor as read, and the air beside it. Its values at 25 °C where they are known."""

    kind: Literal["sensor_ohm"] = Field("sensor_ohm", description="Which kind it is.")
    sensor: Annotated[int, Field(ge=1, le=8)] = Field(1, description="Number of the sensor. Default 1.")
    ohm: Annotated[float, Field(ge=0, le=1e12)] = Field(description="Resistance, ohm.")
    ambient_c: Celsius = Field(
        22.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )
    r25_ohm: Annotated[float, Field(gt=0, le=1e7)] | None = Field(
        None, description="Resistance of the thermistor at 25 °C, ohm. Default 10 kΩ, the commonest."
    )
    b_k: Annotated[float, Field(ge=500, le=10_000)] | None = Field(
        None, description="B value of the thermistor, K. Default 3435 K, the commoner of two usual ones."
    )


class PathVolts(Value):
    """A node of the power path against pack negative; each node is named by the part it lies behind."""

    kind: Literal["path_v"] = Field("path_v", description="Which kind it is.")
    node: Node = Field(description="Where it is touched.")
    volts: Volts = Field(description="Volts.")


Measured = Annotated[
    GroupVolts
    | TapVolts
    | SpanVolts
    | TerminalVolts
    | DirectVolts
    | Resistance
    | Acir
    | CapacityTest
    | Leak
    | RestFall
    | SensorOhm
    | Temperature
    | PathVolts
    | RailVolts
    | GaugeShows,
    Field(discriminator="kind"),
]

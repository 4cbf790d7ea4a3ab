"""Numeric evidence on a pack, by the names of the contract. Charging current is positive."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.measures.evidence import GaugeShows, Node, RailVolts, Temperature
from saldatura.battery.quantities import Celsius, GroupNumber, TapNumber, Value, Volts

Condition = Literal["rest", "load", "charging"]
Hours = Annotated[float, Field(ge=0, le=100_000)]


class _Read(Value):
    """A voltage, and under what it was read. A current that is not given is the pack's usual load."""

    volts: Volts
    condition: Condition = "rest"
    current_a: Annotated[float, Field(ge=-10_000, le=10_000)] | None = None
    rested_h: Hours | None = None
    sigma_v: Annotated[float, Field(ge=0, le=5)] | None = None


class GroupVolts(_Read):
    """Across one group, at its pins."""

    kind: Literal["group_v"] = "group_v"
    group: GroupNumber


class TapVolts(_Read):
    """Tap `tap` against tap 0, at the pins."""

    kind: Literal["tap_v"] = "tap_v"
    tap: TapNumber


class SpanVolts(_Read):
    """From one tap to a higher one, at the pins."""

    kind: Literal["span_v"] = "span_v"
    from_tap: TapNumber
    to_tap: TapNumber


class TerminalVolts(_Read):
    """At the pack's own terminals."""

    kind: Literal["terminal_v"] = "terminal_v"


class DirectVolts(_Read):
    """Across one group, on the cells' own tabs."""

    kind: Literal["cell_direct_v"] = "cell_direct_v"
    group: GroupNumber


class Resistance(Value):
    """Resistance of a group from a step in current, so many seconds after it."""

    kind: Literal["resistance"] = "resistance"
    group: GroupNumber
    ohm: Annotated[float, Field(gt=0, le=1000)]
    after_s: Annotated[float, Field(ge=0, le=3600)] = 10.0


class Acir(Value):
    """Resistance of a group at 1 kHz."""

    kind: Literal["acir"] = "acir"
    group: GroupNumber
    ohm: Annotated[float, Field(gt=0, le=1000)]


class CapacityTest(Value):
    """Capacity from full to empty, of a group or of the whole pack."""

    kind: Literal["capacity"] = "capacity"
    group: GroupNumber | None = None
    ah: Annotated[float, Field(ge=0, le=10_000)]


class Leak(Value):
    """What a group loses beyond its siblings, as a current."""

    kind: Literal["leak"] = "leak"
    group: GroupNumber
    ma: Annotated[float, Field(ge=-1000, le=10_000)]


class RestFall(Value):
    """How far a group fell at rest beyond its siblings, in so many hours."""

    kind: Literal["rest_fall"] = "rest_fall"
    group: GroupNumber
    mv: Annotated[float, Field(ge=-5000, le=5000)]
    hours: Annotated[float, Field(gt=0, le=100_000)]


class SensorOhm(Value):
    """A temperature sensor as read, and the air beside it. Its values at 25 °C where they are known."""

    kind: Literal["sensor_ohm"] = "sensor_ohm"
    sensor: Annotated[int, Field(ge=1, le=8)] = 1
    ohm: Annotated[float, Field(ge=0, le=1e12)]
    ambient_c: Celsius = 22.0
    r25_ohm: Annotated[float, Field(gt=0, le=1e7)] | None = None
    b_k: Annotated[float, Field(ge=500, le=10_000)] | None = None


class PathVolts(Value):
    """A node of the power path against pack negative; each node is named by the part it lies behind."""

    kind: Literal["path_v"] = "path_v"
    node: Node
    volts: Volts


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

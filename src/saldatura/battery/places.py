"""Where something is touched: a tap, a node of the power path, a temperature sensor."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import NOT_BLANK, TapNumber, Value, Words

PlaceName = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]


class TapPlace(Value):
    """Where a tap can be touched."""

    kind: Literal["tap"] = "tap"
    tap: TapNumber


class NodePlace(Value):
    """Where a node of the power path can be touched, by the path's name for it."""

    kind: Literal["node"] = "node"
    node: PlaceName


class SensorPlace(Value):
    """Where a temperature sensor sits."""

    kind: Literal["sensor"] = "sensor"
    sensor: PlaceName


Place = Annotated[TapPlace | NodePlace | SensorPlace, Field(discriminator="kind")]

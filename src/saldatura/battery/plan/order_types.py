"""What a repair wants bought, and the bounds of what an offer says."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import Value

# An offer is kept with the job when it is accepted, and comes in again with a job file: it has bounds, far beyond any real one.
Amount = Annotated[float, Field(ge=0, le=1e9)]
Sum = Annotated[float, Field(ge=-1e12, le=1e12)]
Share = Annotated[float, Field(ge=0, le=1)]
Said = Annotated[str, Field(max_length=2000)]

PartCode = Literal["cell", "board", "board_part", "donor", "original", "copy", "small_parts", "disposal", "pack_part"]


class OrderItem(Value):
    """Something that a repair wants bought: what it is by its code, how many, and the price of one."""

    code: PartCode = Field(description="What it is, by its code.")
    name: Said = Field(description="What it is called.")
    count: Annotated[int, Field(ge=0, le=1_000_000)] = Field(description="How many.")
    price: Amount | None = Field(None, description="Price of one, in the shop's money. Default: not known.")

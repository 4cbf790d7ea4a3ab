"""What the shop's own jobs say of a repair: the minutes it took, and what came back."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.plan.words import types as words
from saldatura.battery.quantities import Value


class ShopMinutes(Value):
    """How long a repair took the shop on jobs of its own."""

    jobs: Annotated[int, Field(ge=0, le=100_000)] = Field(description="Jobs that were counted.")
    mean_min: Annotated[float, Field(ge=0, le=10_000)] = Field(description="Minutes they took on average.")


class ShopReturns(Value):
    """What came back to the shop of a repair: of `tried` packs out for 90 days or back before, `soon` were back by then; `later` came
    back after, of packs out for `years` together.
    """

    tried: Annotated[int, Field(ge=0, le=100_000)] = Field(
        description="Packs that were out 90 days, or came back before."
    )
    soon: Annotated[int, Field(ge=0, le=100_000)] = Field(
        0, description="Of those, how many came back within 90 days. Default 0."
    )
    later: Annotated[int, Field(ge=0, le=100_000)] = Field(
        0, description="Of those, how many came back after. Default 0."
    )
    years: Annotated[float, Field(ge=0, le=1e6)] = Field(
        0.0, description="Years that the packs which stayed 90 days were out, together. Default 0."
    )

    @model_validator(mode="after")
    def _no_more_than_went(self) -> Self:
        if self.soon + self.later > self.tried:
            raise Misfit("soon", "more_back_than_out", words.MORE_CAME_BACK_THAN)
        return self

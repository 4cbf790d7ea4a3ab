"""Weld settings as tried on coupons."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.join.weld_types import Outcome, whole_range
from saldatura.battery.quantities import NOT_BLANK, Value, Words
from saldatura.ledger.fact import Fact
from saldatura.shop import words


class Recipe(Value):
    """What a weld setting holds for: one welder, strip, layers and cell."""

    welder: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
    strip: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
    on: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]


class NewCoupon(Value):
    """A coupon of a recipe: at a setting of the welder, torn, and what was seen."""

    recipe: Recipe
    setting: Annotated[float, Field(ge=1e-3, le=1e6)]
    lowest: Annotated[float, Field(ge=1e-3, le=1e6)]
    highest: Annotated[float, Field(ge=1e-3, le=1e6)]
    outcome: Outcome
    pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _inside(self) -> Self:
        whole_range(self.lowest, self.highest)
        if not self.lowest <= self.setting <= self.highest:
            raise Unfitting("coupon_outside", words.lies_outside_welders(self.setting, self.lowest, self.highest))
        return self


class CouponFact(NewCoupon, Fact):
    """A coupon as recorded."""

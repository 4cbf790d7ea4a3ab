"""Coupons of a welder, and the window they tell."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.join.words import weld_types as words
from saldatura.battery.quantities import Value

Setting = Annotated[float, Field(ge=1e-3, le=1e6)]

Outcome = Literal["no_bond", "weak", "good", "burnt"]


class Coupon(Value):
    """A coupon: strip on a dead cell or on strip, at a setting, torn and looked at. `pull_n`: the force at which it let go; `button`: whether
    the strip tore and left its button."""

    setting: Setting = Field(description="Energy in J, or the welder's own number.")
    outcome: Outcome = Field(description="No bond; weak, it peels; good, a button tears out; burnt, a hole or spatter.")
    pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = Field(
        None, description="Force at which it let go, N. Default: not measured."
    )
    button: bool | None = Field(None, description="Whether the strip tore and left its button. Default: not tried.")

    @property
    def torn(self) -> bool:
        """Whether more than the eye judged it."""
        return self.pull_n is not None or self.button is not None


def whole_range(lowest: float, highest: float) -> None:
    """Raises ValueError for what is no welder's range: a window has no room in it."""
    if highest <= lowest:
        raise Misfit("highest", "highest_not_above_lowest", words.highest_setting_is_not(highest, lowest))
    if highest < LEAST_RANGE * lowest:
        raise Misfit("highest", "no_room_for_window", words.leaves_no_room(lowest, highest, LEAST_RANGE))


class WeldRequest(Value):
    """The coupons of one recipe (welder, strip, thickness, layers, cell), between the lowest and the highest setting there is."""

    coupons: Annotated[list[Coupon], Field(max_length=200)] = Field(
        [], description="The coupons of this recipe so far. Default: none."
    )
    lowest: Setting = Field(description="Lowest setting of the welder.")
    highest: Setting = Field(description="Highest setting of the welder.")
    want_pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = Field(
        None,
        description="Force that a good weld must bear, N; one that lets go sooner counts as weak. Default: the look decides.",
    )

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        whole_range(self.lowest, self.highest)
        beyond = next((c for c in self.coupons if not self.lowest <= c.setting <= self.highest), None)
        if beyond is not None:
            raise Misfit(
                "coupons", "coupon_outside", words.coupon_at_lies_outside(beyond.setting, self.lowest, self.highest)
            )
        return self


class WeldRange(Value):
    """The lowest and the highest setting about the one to use at which a coupon was good, with none between that was not."""

    low: float = Field(description="Lower end.")
    high: float = Field(description="Upper end.")


class WeldChance(Value):
    """How likely a weld at a setting is good, as far as the coupons tell."""

    setting: float = Field(description="Energy in J, or the welder's own number.")
    chance: float = Field(description="Chance of a good weld, 0–1.")


class WeldWindow(Value):
    """What the coupons tell: the window, the setting to use, how surely it welds well, and the coupon to weld next; None: not yet, or
    no more needed."""

    window: WeldRange | None = Field(description="Between which settings a weld holds; None: not known yet.")
    use: float | None = Field(description="The setting to weld at; None: none is sure to hold yet.")
    chance_good: float = Field(description="Chance of a good weld at the best setting known, 0–1.")
    next_coupon: float | None = Field(description="Setting of the coupon that tells most; None: no more are needed.")
    because: str = Field(description="Why, in a technician's words.")
    curve: list[WeldChance] = Field([], description="The chance of a good weld from the lowest to the highest setting.")


LEAST_RANGE = 1.25

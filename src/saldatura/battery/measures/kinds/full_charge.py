"""A charge on the pack's own charger."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.measures.kinds.base import Current, Measure, check_group_v
from saldatura.battery.quantities import CellVolts, Pack
from saldatura.battery.wording import volts_small


class FullChargeMeasure(Measure):
    """A charge to the end on the pack's own charger: whether it took it, whether it ended by itself, what the groups read then."""

    kind: Literal["full_charge"] = Field("full_charge", description="Which kind it is.")
    accepts: bool
    ended_itself: bool
    group_v: Annotated[list[CellVolts], Field(max_length=40)] = Field(
        [], description="Volts of a group by the leads, V."
    )

    @property
    def of_string(self) -> bool:
        return True

    @property
    def current(self) -> Current | None:
        # What it took at its end nobody told: at the least it was charged.
        return Current(0.0, "the charge on its own charger", "all") if self.accepts else None

    def check(self, pack: Pack) -> None:
        check_group_v(self.group_v, pack)

    def said(self, rated_ah: float) -> str:
        if not self.accepts:
            return "Its own charger refuses it."
        ended = "ended by itself" if self.ended_itself else "did not end by itself"
        if len(self.group_v) > 1:
            return f"Its own charger took it and {ended}, the groups {volts_small(max(self.group_v) - min(self.group_v))} apart then."
        return f"Its own charger took it and {ended}."

"""Where a board cut off."""

from typing import Literal

from pydantic import Field

from saldatura.battery.measures.kinds.base import Measure, is_simulated
from saldatura.battery.quantities import PositiveVolts
from saldatura.battery.wording import figure


class BoardMeasure(Measure):
    """Where a board cut off: by its stand-in, or with a supply at one sense point, never with the cells themselves."""

    kind: Literal["board_limits"] = Field("board_limits", description="Which kind it is.")
    on: Literal["stand_in", "supply"]
    over_v: PositiveVolts | None = None
    under_v: PositiveVolts | None = None

    def said(self, rated_ah: float) -> str:
        at = [
            f"opens at {figure(self.over_v, 2)} V" if self.over_v else "",
            f"cuts off at {figure(self.under_v, 2)} V" if self.under_v else "",
        ]
        by = "its stand-in" if self.on == "stand_in" else "a supply at a sense point"
        said = f"The board {' and '.join(a for a in at if a) or 'was tried'}, by {by}."
        return f"Simulated: {said}" if is_simulated(self) else said

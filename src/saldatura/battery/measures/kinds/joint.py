"""A mended joint."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import PositiveOhms, Words
from saldatura.battery.wording import figure


class JointMeasure(Measure):
    """A mended joint by what it adds: its resistance, four-wire, after the mend, and before it where it was read."""

    kind: Literal["joint"] = Field("joint", description="Which kind it is.")
    what: Annotated[Words, Field(min_length=1, max_length=60)] = Field(description="What it was, by its name.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")
    before_ohm: PositiveOhms | None = None

    def said(self, rated_ah: float) -> str:
        before = f", {figure(1000 * self.before_ohm, 2)} mΩ before" if self.before_ohm is not None else ""
        return f"{self.what}: {figure(1000 * self.ohm, 2)} mΩ{before}."

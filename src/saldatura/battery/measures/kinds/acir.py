"""Resistance at 1 kHz."""

from collections.abc import Iterator
from typing import Literal, Self

from pydantic import Field

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.errors import Wrong
from saldatura.battery.judge.measured import Acir
from saldatura.battery.judge.types import Evidence
from saldatura.battery.limits.plausible import RESISTANCE_APART
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import GroupNumber, Pack, PositiveOhms
from saldatura.battery.wording import figure, significant, typed


class AcirMeasure(Measure):
    """The resistance of a group at 1 kHz, as a meter for it shows."""

    kind: Literal["acir"] = Field("acir", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")

    @property
    def about(self) -> int | None:
        return self.group

    def renumbered(self, group: int) -> Self:
        return self.model_copy(update={"group": group})

    def said(self, rated_ah: float) -> str:
        return f"Group {self.group}: {figure(self.ohm * 1000, 1)} mΩ at 1 kHz."

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        yield Acir(group=self.group, ohm=self.ohm)

    def doubts(self, pack: Pack) -> Iterator[Wrong]:
        usual = usual_resistance_ohm(pack.chemistry, pack.rated_ah)
        if usual / RESISTANCE_APART < self.ohm < usual * RESISTANCE_APART:
            return
        slip = usual / RESISTANCE_APART < self.ohm / 1000 < usual * RESISTANCE_APART
        yield Wrong(
            "ohm",
            "resistance_odd",
            f"{self.ohm * 1000:,.4g} mΩ, where a group of {typed(pack.rated_ah)} Ah usually has about {significant(usual * 1000, 2)} mΩ; "
            f"is it meant{f', or is it {significant(self.ohm)} mΩ' if slip else ''}?",
        )

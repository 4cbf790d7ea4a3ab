"""The registers of a smart pack as they were read."""

from collections.abc import Iterator
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.judge.types import Evidence
from saldatura.battery.measures.evidence import GaugeShows, Registers
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import Pack, Value
from saldatura.battery.smart import words as said
from saldatura.battery.smart.registers import registers
from saldatura.battery.smart.types import Block, Byte, Register, RegistersRequest, RegistersSay, Word
from saldatura.battery.smart.words import chip_says

# Beyond this a share of design says nothing of health.
MOST_SOH = 1.5


class ChipWords(Value):
    """Words and blocks as they came, with the codes that came with them: what `registers` is asked with."""

    words: Annotated[dict[Register, Word | None], Field(max_length=256)] = {}
    blocks: Annotated[dict[Register, Block], Field(max_length=256)] = {}
    pec: Annotated[dict[Register, Byte], Field(max_length=256)] = {}


class RegistersMeasure(ChipWords, Measure):
    """The words of the pack's own chip: `by` a bus of this machine, a virtual pack's, or a text that another tool printed. `fed`: a supply from
    outside fed its board meanwhile; `silent_unfed`: without one it did not answer.
    """

    kind: Literal["registers_read"] = Field("registers_read", description="Which kind it is.")
    by: Literal["bus", "simulated", "text"]
    fed: bool = False
    silent_unfed: bool = False

    @model_validator(mode="after")
    def _something(self) -> Self:
        if not self.words and not self.blocks:
            raise Misfit("words", "nothing_read", said.NOTHING_READ)
        return self

    @property
    def of_string(self) -> bool:
        return True

    @property
    def answers_unpowered(self) -> bool | None:
        """Whether the chip answers by itself; None where that was not tried."""
        return False if self.silent_unfed else None if self.fed or self.by == "text" else True

    @property
    def asked(self) -> RegistersRequest:
        """The words alone, as they are decoded; what is known of the pack is added to it."""
        return RegistersRequest(
            words=self.words, blocks=self.blocks, pec=self.pec, answers_unpowered=self.answers_unpowered
        )

    @property
    def says(self) -> RegistersSay:
        """What the words say by themselves."""
        return registers(self.asked)

    def said(self, rated_ah: float) -> str:
        saying = chip_says(self.says)
        return f"Simulated: {saying}" if self.by == "simulated" else saying

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        say = self.says
        # A count that contradicts its own capacities is no count.
        sound = not any(c.kind in ("charge_against_capacities", "remaining_over_full") for c in say.contradictions)
        soc = say.relative_soc if sound else None
        reported = {
            "soc": soc,
            "soh": say.soh if say.soh is not None and say.soh <= MOST_SOH else None,
            "cycles": say.cycles,
            "answers_unpowered": self.answers_unpowered,
        }
        if any(value is not None for value in reported.values()):
            yield Registers.model_validate(reported)
        if say.relative_soc is not None:
            yield GaugeShows(fraction=say.relative_soc)

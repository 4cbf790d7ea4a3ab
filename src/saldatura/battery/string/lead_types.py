"""Loose leads as read, and what they are found to be."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import MAX_SERIES, NOT_BLANK, ChemistryKey, PositiveVolts, Series, Value, Volts
from saldatura.battery.string import words

MOST_LEADS = MAX_SERIES + 20


class Lead(Value):
    """A loose lead by the name the hand gives it, and its volts against the reference; `again_v` if it was read again."""

    lead: Annotated[str, Field(min_length=1, max_length=40, pattern=NOT_BLANK)] = Field(
        description="Name of the lead, as the hand tells it."
    )
    volts: Volts = Field(description="Volts against the reference lead.")
    again_v: Annotated[list[Volts], Field(max_length=20)] = Field(
        [], description="The same lead read again, V; readings that wander are of an open lead. Default: none."
    )


class LeadsRequest(Value):
    """Every lead against the same reference lead, which itself reads 0. `pack_v` is read at the pack's terminals."""

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    series: Series = Field(description="Groups in series.")
    leads: Annotated[list[Lead], Field(min_length=2, max_length=MOST_LEADS)] = Field(
        description="The leads, each against the same reference lead, which reads 0 and is among them."
    )
    pack_v: PositiveVolts | None = Field(
        None, description="Voltage at the terminals, V; compared with the leads, never moving one. Default: not read."
    )

    @model_validator(mode="after")
    def _names_differ(self) -> Self:
        names = [lead.lead for lead in self.leads]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise Misfit("leads", "called_alike", words.two_leads_are_called(twice))
        if all(abs(lead.volts) > ZERO_V for lead in self.leads):
            raise Misfit("leads", "no_lead_at_minus", words.NO_LEAD_READS_PUT)
        return self


class PlacedLead(Value):
    """A lead on its tap, with the volts to expect there against tap 0."""

    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    lead: str = Field(description="Name of the lead, as the hand tells it.")
    expected_v: float = Field(description="What its pin must read against pin 0, V.")


class MissingTap(Value):
    """No lead comes from this tap; or, where nothing tells the two ends apart, from `or_tap`."""

    kind: Literal["missing_tap"] = Field("missing_tap", description="Which kind it is.")
    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    because: str = Field(description="Why, in a technician's words.")
    or_tap: int | None = Field(
        None, description="The other tap that the lead may be missing from, where nothing tells."
    )


class PackDiffers(Value):
    """The terminals read `difference_v` away from what the leads span; no lead is moved for it."""

    kind: Literal["pack_differs"] = Field("pack_differs", description="Which kind it is.")
    difference_v: float = Field(description="Terminals minus sum, V.")
    because: str = Field(description="Why, in a technician's words.")


class DuplicatePotential(Value):
    """Two leads at one potential: on the same tap, or shorted."""

    kind: Literal["duplicate_potential"] = Field("duplicate_potential", description="Which kind it is.")
    leads: list[str] = Field(description="Names of the leads at one potential.")
    because: str = Field(description="Why, in a technician's words.")


class ReferenceNotNegative(Value):
    """The lead that all were measured against is not the lowest."""

    kind: Literal["reference_not_negative"] = Field("reference_not_negative", description="Which kind it is.")
    because: str = Field(description="Why, in a technician's words.")


class FloatingLead(Value):
    """A lead whose reading fits no tap, or wanders: it is connected to nothing."""

    kind: Literal["floating_lead"] = Field("floating_lead", description="Which kind it is.")
    lead: str = Field(description="Name of the lead, as the hand tells it.")
    because: str = Field(description="Why, in a technician's words.")


class TooManyLeads(Value):
    """More leads than the pack has taps."""

    kind: Literal["too_many_leads"] = Field("too_many_leads", description="Which kind it is.")
    because: str = Field(description="Why, in a technician's words.")


class ImplausibleGap(Value):
    """Two neighbouring leads lie as far apart as no group of this chemistry should."""

    kind: Literal["implausible_gap"] = Field("implausible_gap", description="Which kind it is.")
    lower: str = Field(description="The lower lead.")
    upper: str = Field(description="The upper lead.")
    volts: float = Field(description="Volts.")
    because: str = Field(description="Why, in a technician's words.")


LeadFinding = Annotated[
    MissingTap | DuplicatePotential | ReferenceNotNegative | FloatingLead | TooManyLeads | ImplausibleGap | PackDiffers,
    Field(discriminator="kind"),
]


class IdentifiedLeads(Value):
    """The leads from tap 0 upward; what is odd about them; `group_v`, what a group hangs at."""

    order: list[PlacedLead] = Field(description="The leads from tap 0 upward.")
    findings: list[LeadFinding] = Field(description="What does not fit, or is not settled.")
    group_v: float = Field(description="Volts of a group by the leads, V.")


ZERO_V = 0.03

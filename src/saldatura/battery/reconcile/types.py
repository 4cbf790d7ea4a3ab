"""What reconciliation is asked and what it answers."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import (
    MOST_READINGS,
    MOST_STRINGS,
    ChemistryKey,
    Fraction,
    GroupNumber,
    Place,
    Point,
    Reading,
    Series,
    Value,
)
from saldatura.battery.words import strings_are_uneven


class ReconcileRequest(Value):
    """Readings of one string, or of strings side by side, by one meter, of about the same moment: minutes apart, or with `at_s` to say how far."""

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    series: Series = Field(description="Groups in series; of strings in parallel, the groups of all of them.")
    strings: Annotated[int, Field(ge=1, le=MOST_STRINGS)] = Field(
        1,
        description="Strings in parallel, each with taps of its own, numbered through string after string. Default 1.",
    )
    meter: Meter = Field(
        Meter(), description="The meter that the readings were taken with. Default: a common hand meter."
    )
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)] = Field(
        description="Readings of the string, of about one moment."
    )

    @model_validator(mode="after")
    def _equally_long(self) -> Self:
        if self.series % self.strings:
            raise Misfit("strings", "strings_uneven", strings_are_uneven(self.series, self.strings))
        return self


class GroupVolts(Value):
    """A group's voltage with its standard uncertainty; both None where it is not determined.

    `from_readings` are the indices of the readings that it was computed from. `through_terminals`: nothing but the
    terminals settles it, and a board may lie between.
    """

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    volts: float | None = Field(description="Volts.")
    sigma_v: float | None = Field(description="Standard uncertainty, V.")
    determined: bool = Field(description="Whether the readings settle this group.")
    from_readings: list[int] = Field(description="Indices of the readings it was computed from.")
    through_terminals: bool = Field(False, description="Whether nothing but the terminals settles it.")


class KnownSum(Value):
    """Neighbouring groups known only together, from tap `from_tap` to tap `to_tap`."""

    from_tap: int = Field(description="Lower tap; of a reading, where the black probe is.")
    to_tap: int = Field(description="Upper tap; of a reading, where the red probe is.")
    volts: float = Field(description="Volts.")
    sigma_v: float = Field(description="Standard uncertainty, V.")


class WrongReading(Value):
    """The reading with index `reading` does not fit the others."""

    kind: Literal["wrong_reading"] = Field("wrong_reading", description="Which kind it is.")
    reading: int = Field(description="Index of the reading.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


class ReversedProbes(Value):
    """The reading with index `reading` was taken with black and red exchanged."""

    kind: Literal["reversed_probes"] = Field("reversed_probes", description="Which kind it is.")
    reading: int = Field(description="Index of the reading.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


class OpenTap(Value):
    """The sense wire of `tap` is open; the groups on both sides are known as a sum only."""

    kind: Literal["open_tap"] = Field("open_tap", description="Which kind it is.")
    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


class SwappedTaps(Value):
    """The wires of two taps are exchanged; the groups are given as they are behind the exchange."""

    kind: Literal["swapped_taps"] = Field("swapped_taps", description="Which kind it is.")
    taps: list[int] = Field(description="Numbers of the two taps.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


class ShiftedConnector(Value):
    """From pin `from_tap` on, the connector sits one tap off."""

    kind: Literal["shifted_connector"] = Field("shifted_connector", description="Which kind it is.")
    from_tap: int = Field(description="First pin that sits one tap off.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


TerminalState = Literal["agree", "board", "diode", "off", "reversed", "differs"]


class PackDiffers(Value):
    """The terminals read `difference_v` away from the sum of the groups (terminals minus sum), in the way of `state`."""

    kind: Literal["pack_differs"] = Field("pack_differs", description="Which kind it is.")
    difference_v: float = Field(description="Terminals minus sum, V.")
    state: TerminalState = Field("differs", description="Its state in a word.")
    confidence: Fraction = Field(description="Share of the belief, over all accounts compared, that holds this, 0–1.")
    because: str = Field(description="Why, in a technician's words.")


class Undetermined(Value):
    """Groups that the readings do not settle one by one."""

    kind: Literal["undetermined"] = Field("undetermined", description="Which kind it is.")
    groups: list[GroupNumber] = Field(description="Numbers of the groups that are not settled.")
    confidence: Fraction = Field(
        1.0, description="Share of the belief, over all accounts compared, that holds this, 0–1."
    )
    because: str = Field(description="Why, in a technician's words.")


Doubt = WrongReading | ReversedProbes | OpenTap | SwappedTaps | ShiftedConnector | PackDiffers
Finding = Annotated[Doubt | Undetermined, Field(discriminator="kind")]


class SumCheck(Value):
    """The groups' sum against the terminals; `limit_v` is the 95 % doubt of the difference, ranges of the meter included.

    `agrees`: within the doubt, or less by what a board ordinarily takes. `state` says in which way it differs: through a
    `board`, through a body `diode`, `off` (next to nothing), `reversed`, or otherwise. `says` is all of it in a sentence.
    """

    sum_v: float = Field(description="Sum of the groups, V.")
    pack_v: float = Field(description="Voltage at the pack's terminals, V.")
    difference_v: float = Field(description="Terminals minus sum, V.")
    limit_v: float = Field(description="95 % doubt of the difference, V.")
    agrees: bool = Field(description="Whether the terminals show the string, board and meter allowed for.")
    state: TerminalState = Field("agree", description="Its state in a word.")
    says: str = Field("", description="What it means, in words.")


class LookAlike(Value):
    """Two neighbours that bad groups and an open wire between them (at `tap`) would show alike; `together_v` holds either
    way. A reading on the cells' own tabs tells."""

    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    groups: list[GroupNumber] = Field(description="Numbers of the two groups.")
    together_v: float = Field(description="What the two hold together, V.")
    because: str = Field(description="Why, in a technician's words.")


class FairAccount(Value):
    """One way to understand the readings that keeps a fair `share` of the belief: its faults in words, and the voltage of
    each group under it (None where not settled)."""

    share: Fraction = Field(description="Share of the belief, 0–1.")
    faults: list[str] = Field(description="What is wrong under this account, in words; none: everything as read.")
    volts: list[float | None] = Field(
        description="Voltage of each group under this account, V; None where not settled."
    )


class Reconciled(Value):
    """Group voltages, what is known only as a sum, residual of each reading (V), findings, and the next reading.

    `taps_v[k]` is tap k against tap 0, of strings side by side against the lowest of its own string; None where readings do not connect it.
    `sum_check` is None until every group is determined without the terminals and the terminals are read.
    `accounts` are all fair ways to understand the readings, likeliest first; a conclusion is safe where it holds under
    every one. `overcharged` groups read above full, and no fault explains that away. `scale`: how many times worse than
    the meter's maker says the readings agree. `next_place`: where the next reading is to be taken. `turned`: every reading was
    negative, and all is told as with the probes put right.
    """

    groups: list[GroupVolts] = Field(description="The groups, from the negative end.")
    taps_v: list[float | None] = Field(description="Each tap against tap 0, V; None where nothing ties it.")
    sums: list[KnownSum] = Field(description="What is known only as a sum.")
    residuals_v: list[float | None] = Field(
        description="What each reading is off the solution, V; None for one that was set aside."
    )
    findings: list[Finding] = Field(description="What does not fit, or is not settled.")
    next_reading: Point | None = Field(
        description="The one reading that would settle most; None: nothing more to settle."
    )
    sum_check: SumCheck | None = Field(description="The groups' sum against the terminals; None until both are known.")
    next_place: Place = Field(
        "pin", description="Where the next reading is to be taken: pin, the cell's own tab, or terminal."
    )
    look_alikes: list[LookAlike] = Field(
        [], description="Neighbours that bad groups and an open wire between them would show alike."
    )
    accounts: list[FairAccount] = Field([], description="Every fair way to understand the readings, likeliest first.")
    overcharged: list[GroupNumber] = Field([], description="Groups that read above full; no fault explains that away.")
    scale: float = Field(1.0, description="How many times worse than the meter's maker says the readings agree.")
    turned: bool = Field(
        False,
        description="Whether every reading was negative, by probes or polarity; all is told as with that put right.",
    )

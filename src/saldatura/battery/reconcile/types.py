"""What reconciliation is asked and what it answers."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import (
    MOST_READINGS,
    ChemistryKey,
    Fraction,
    GroupNumber,
    Meter,
    Place,
    Point,
    Reading,
    Series,
    Value,
)


class ReconcileRequest(Value):
    """Readings of one string by one meter, of about the same moment: minutes apart, or with `at_s` to say how far."""

    chemistry: ChemistryKey
    series: Series
    meter: Meter = Meter()
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)]


class GroupVolts(Value):
    """A group's voltage with its standard uncertainty; both None where it is not determined.

    `from_readings` are the indices of the readings that it was computed from. `through_terminals`: nothing but the
    terminals settles it, and a board may lie between.
    """

    group: GroupNumber
    volts: float | None
    sigma_v: float | None
    determined: bool
    from_readings: list[int]
    through_terminals: bool = False


class KnownSum(Value):
    """Neighbouring groups known only together, from tap `from_tap` to tap `to_tap`."""

    from_tap: int
    to_tap: int
    volts: float
    sigma_v: float


class WrongReading(Value):
    """The reading with index `reading` does not fit the others."""

    kind: Literal["wrong_reading"] = "wrong_reading"
    reading: int
    confidence: Fraction
    because: str


class ReversedProbes(Value):
    """The reading with index `reading` was taken with black and red exchanged."""

    kind: Literal["reversed_probes"] = "reversed_probes"
    reading: int
    confidence: Fraction
    because: str


class OpenTap(Value):
    """The sense wire of `tap` is open; the groups on both sides are known as a sum only."""

    kind: Literal["open_tap"] = "open_tap"
    tap: int
    confidence: Fraction
    because: str


class SwappedTaps(Value):
    """The wires of two taps are exchanged; the groups are given as they are behind the exchange."""

    kind: Literal["swapped_taps"] = "swapped_taps"
    taps: list[int]
    confidence: Fraction
    because: str


class ShiftedConnector(Value):
    """From pin `from_tap` on, the connector sits one tap off."""

    kind: Literal["shifted_connector"] = "shifted_connector"
    from_tap: int
    confidence: Fraction
    because: str


TerminalState = Literal["agree", "board", "diode", "off", "reversed", "differs"]


class PackDiffers(Value):
    """The terminals read `difference_v` away from the sum of the groups (terminals minus sum), in the way of `state`."""

    kind: Literal["pack_differs"] = "pack_differs"
    difference_v: float
    state: TerminalState = "differs"
    confidence: Fraction
    because: str


class Undetermined(Value):
    """Groups that the readings do not settle one by one."""

    kind: Literal["undetermined"] = "undetermined"
    groups: list[GroupNumber]
    confidence: Fraction = 1.0
    because: str


Doubt = WrongReading | ReversedProbes | OpenTap | SwappedTaps | ShiftedConnector | PackDiffers
Finding = Annotated[Doubt | Undetermined, Field(discriminator="kind")]


class SumCheck(Value):
    """The groups' sum against the terminals; `limit_v` is the 95 % doubt of the difference, ranges of the meter included.

    `agrees`: within the doubt, or less by what a board ordinarily takes. `state` says in which way it differs: through a
    `board`, through a body `diode`, `off` (next to nothing), `reversed`, or otherwise. `says` is all of it in a sentence.
    """

    sum_v: float
    pack_v: float
    difference_v: float
    limit_v: float
    agrees: bool
    state: TerminalState = "agree"
    says: str = ""


class LookAlike(Value):
    """Two neighbours that bad groups and an open wire between them (at `tap`) would show alike; `together_v` holds either
    way. A reading on the cells' own tabs tells."""

    tap: int
    groups: list[GroupNumber]
    together_v: float
    because: str


class FairAccount(Value):
    """One way to understand the readings that keeps a fair `share` of the belief: its faults in words, and the voltage of
    each group under it (None where not settled)."""

    share: Fraction
    faults: list[str]
    volts: list[float | None]


class Reconciled(Value):
    """Group voltages, what is known only as a sum, residual of each reading (V), findings, and the next reading.

    `taps_v[k]` is tap k against tap 0, None where it is not connected to it by readings.
    `sum_check` is None until every group is determined without the terminals and the terminals are read.
    `accounts` are all fair ways to understand the readings, likeliest first; a conclusion is safe where it holds under
    every one. `overcharged` groups read above full, and no fault explains that away. `scale`: how many times worse than
    the meter's maker says the readings agree. `next_place`: where the next reading is to be taken. `turned`: every reading was
    negative, and all is told as with the probes put right.
    """

    groups: list[GroupVolts]
    taps_v: list[float | None]
    sums: list[KnownSum]
    residuals_v: list[float | None]
    findings: list[Finding]
    next_reading: Point | None
    sum_check: SumCheck | None
    next_place: Place = "pin"
    look_alikes: list[LookAlike] = []
    accounts: list[FairAccount] = []
    overcharged: list[GroupNumber] = []
    scale: float = 1.0
    turned: bool = False

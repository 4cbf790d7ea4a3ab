"""Two sets of readings, and what they tell together."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import MAX_SERIES, CellVolts, GroupNumber, Pack, Value


class SetGroup(Value):
    """A group in one set: its volts and their standard uncertainty, None where not settled."""

    volts: CellVolts | None = Field(None, description="Volts of the group. Default: not settled.")
    sigma_v: Annotated[float, Field(ge=0, le=10)] | None = Field(
        None, description="Standard uncertainty of the volts. Default: a common hand meter's."
    )


class CompareRequest(Value):
    """Two sets. Currents are of the string, charging positive, 0 at rest. `days` lie between them."""

    pack: Pack = Field(description="The pack.")
    then: Annotated[list[SetGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The earlier set, a group each."
    )
    now: Annotated[list[SetGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The later set, a group each."
    )
    then_a: Annotated[float, Field(ge=-10_000, le=10_000)] = Field(
        0.0, description="Current of the string in the earlier set, A, charging positive. Default 0: at rest."
    )
    now_a: Annotated[float, Field(ge=-10_000, le=10_000)] = Field(
        0.0, description="Current of the string in the later set, A, charging positive. Default 0: at rest."
    )
    days: Annotated[float, Field(ge=0, le=10_000)] = Field(0.0, description="Days between the two sets. Default 0.")


class ComparedGroup(Value):
    """One group then and now. `ohm` where the currents differ, `leak_mah_day` (relative to the siblings) where both
    sets are at rest and far enough apart; each with its standard uncertainty; `z` and `odd` of whichever there is."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    then_v: float | None = Field(description="Volts in the earlier set.")
    now_v: float | None = Field(description="Volts in the later set.")
    moved_v: float | None = Field(description="Now minus then, V.")
    ohm: float | None = Field(None, description="Resistance, ohm.")
    sigma_ohm: float | None = Field(None, description="Standard uncertainty of the resistance, ohm.")
    leak_mah_day: float | None = Field(
        None, description="Charge lost beyond its siblings, mAh a day; None where voltage does not tell."
    )
    sigma_mah_day: float | None = Field(None, description="Standard uncertainty of the leak, mAh a day.")
    leak_ua: float | None = Field(None, description="The same as a current, µA.")
    z: float | None = Field(None, description="Robust z-score against its siblings.")
    odd: bool = Field(False, description="Whether it is out of line with its siblings.")


class Comparison(Value):
    """What two sets tell together. `shared_mah_day`: what every group lost a day, where that is more than meter and temperature explain."""

    kind: Literal["resistance", "leak", "moved"] = Field(description="Which kind it is.")
    groups: list[ComparedGroup] = Field(description="The groups, from the negative end.")
    usual_ohm: float | None = Field(description="Median resistance of the groups, ohm; None where too few are read.")
    says: list[str] = Field(description="What it means, in words.")
    shared_mah_day: float | None = Field(
        None,
        description="What every group lost a day, mAh, where they fell together by more than meter and temperature explain; None where not.",
    )

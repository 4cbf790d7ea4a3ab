"""The shop's policy: thresholds that are choices rather than physics, each with its reason and its hard limits."""

from typing import Annotated

from pydantic import Field

from saldatura.core.quantities import Value


class Policy(Value):
    """Defaults of the bench. A shop may move each within the limits given; the reason is its description."""

    pack_limit_v: Annotated[
        float,
        Field(gt=0, le=60, description="Extra-low-voltage limit for dry conditions (IEC 61140); above it, refer."),
    ] = 60.0
    charge_c: Annotated[float, Field(ge=0.05, le=1.0, description="Gentle on cells of unknown history.")] = 0.5
    taper_c: Annotated[
        float, Field(ge=0.02, le=0.2, description="Where no data sheet says otherwise, full is a twentieth of C.")
    ] = 0.05
    precharge_c: Annotated[
        float, Field(ge=0.01, le=0.1, description="A run-flat cell takes little before its resistance falls.")
    ] = 0.1
    revive_c: Annotated[
        float, Field(ge=0.01, le=0.05, description="Between floor and hard end: slow, watched, and timed.")
    ] = 0.05
    revive_minutes: Annotated[
        float, Field(ge=10, le=60, description="A cell that does not climb within the hour will not hold.")
    ] = 60
    rest_minutes: Annotated[
        float,
        Field(ge=5, le=1440, description="However small the last current, a probe run starts no sooner after it."),
    ] = 10
    matters_fraction: Annotated[
        float, Field(ge=0.01, le=0.2, description="Less usable charge lost than this is not worth a bench hour.")
    ] = 0.05
    proof_soc: Annotated[
        float, Field(ge=0.005, le=0.10, description="Groups nearer in charge than this cost less than a bench hour.")
    ] = 0.05
    nickel_spread_v: Annotated[
        float,
        Field(ge=0.02, le=0.2, description="Rest voltages of sound nickel cells lie this far apart, charge or not."),
    ] = 0.08
    charge_from_c: Annotated[
        float, Field(ge=0, le=15, description="Colder than freezing a lithium cell plates metal while it charges.")
    ] = 0.0
    charge_full_from_c: Annotated[
        float, Field(ge=5, le=25, description="Below it half the current, for the cell takes charge slowly.")
    ] = 10.0
    charge_to_c: Annotated[
        float, Field(ge=30, le=45, description="Warmer than this a charge ages and may run away.")
    ] = 45.0
    hold_fall_v: Annotated[
        float,
        Field(ge=0.005, le=0.1, description="A run-flat group that falls so far below its siblings in a day leaks."),
    ] = 0.02


DEFAULT_POLICY = Policy()

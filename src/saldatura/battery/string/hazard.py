"""The `hazard` computation: energy, highest voltage and prospective short-circuit current of a pack."""

from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.quantities import Pack, Value
from saldatura.battery.string import words
from saldatura.battery.string.words import hazard_caution

# A spot-welded strip between two groups; the least that stands between the cells and a dropped spanner.
LINK_OHM = 0.0003


class HazardRequest(Value):
    """The pack to be handled."""

    pack: Pack = Field(description="The pack.")


class Hazard(Value):
    """What the pack can do to a hand or a tool. `refused` is the reason it is out of scope, else None."""

    energy_wh: float = Field(description="Energy when full, Wh.")
    nominal_v: float = Field(description="Nominal voltage of the pack, V.")
    highest_v: float = Field(description="Highest voltage of the pack, V: all groups full.")
    short_circuit_low_a: float = Field(description="Prospective short-circuit current with weak cells, A.")
    short_circuit_high_a: float = Field(description="Prospective short-circuit current with strong cells, A.")
    caution: str = Field(description="What can hurt the hand, in a sentence.")
    refused: str | None = Field(description="Why the pack is out of scope; None: it is not.")


def hazard(request: HazardRequest, policy: Policy = DEFAULT_POLICY) -> Hazard:
    """Energy Wh = V·Ah; short-circuit current I = V/(S·R_group + S·R_link), R from the chemistry's resistance range
    at rated capacity, so a stronger cell than usual gives the high figure. Strings in parallel add their currents.
    """
    pack = request.pack
    window = WINDOWS[pack.chemistry]
    nominal = window.nominal_v * pack.in_string
    highest = window.full_v * pack.in_string
    strong = window.resistance_ohm_ah.low / pack.rated_ah
    weak = window.resistance_ohm_ah.high / pack.rated_ah
    most = pack.strings * highest / (pack.in_string * (strong + LINK_OHM))
    least = pack.strings * highest / (pack.in_string * (weak + LINK_OHM))
    refused = None
    if highest > policy.pack_limit_v:
        refused = words.series_reach_above_dc(pack.in_string, highest, policy.pack_limit_v)
    return Hazard(
        energy_wh=round(nominal * pack.whole_ah, 2),
        nominal_v=round(nominal, 2),
        highest_v=round(highest, 2),
        short_circuit_low_a=round(least, 1),
        short_circuit_high_a=round(most, 1),
        caution=hazard_caution(most),
        refused=refused,
    )


def in_scope(pack: Pack, field: str = "pack.series", policy: Policy = DEFAULT_POLICY) -> None:
    """The gate of every computation that leads to work on a pack. Raises Impossible above the voltage limit."""
    refused = hazard(HazardRequest(pack=pack), policy).refused
    if refused is not None:
        raise Impossible(field, "above_low_voltage", refused)

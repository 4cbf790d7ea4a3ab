"""Running charges as their looks have them: when each is over now."""

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.charge.looks import Seen, Sharpened, sharpen
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.job.assessment.figures import capacities, resistances
from saldatura.job.facts import ChargeBegun, ChargeRun, JobFacts
from saldatura.ledger.clock import own_seconds


def sharpened(facts: JobFacts, run: ChargeRun, policy: Policy) -> Sharpened | None:
    """The forecast of a charge after the looks at it; None where there is none, or they tell nothing."""
    if not run.looks or run.cutoff_a <= 0:
        return None
    key, mark = ("looked", run.id), (run.looks[-1].id, len(run.looks), policy)
    held = facts.memo.get(key)
    if held is None or held[0] != mark:
        held = facts.memo[key] = (mark, _sharpened(facts, run, policy))
    found: Sharpened | None = held[1]
    return found


def asked_of(facts: JobFacts, run: ChargeBegun) -> tuple[ChargeRequest, bool, bool]:
    """A charge as the forecast takes it, and whether its group's capacity and resistance were tested."""
    pack = facts.intake.pack
    capacity, resistance = capacities(facts).get(run.group), resistances(facts).get(run.group)
    ah = capacity.value if capacity else pack.rated_ah
    asked = ChargeRequest(
        chemistry=pack.chemistry,
        capacity_ah=ah,
        resistance_ohm=resistance.value if resistance else usual_resistance_ohm(pack.chemistry, ah),
        start_rest_v=max(run.start_v, 0.0),
        current_a=run.current_a,
        full_v=run.target_v,
        cutoff_a=run.cutoff_a or None,
    )
    return asked, capacity is not None and capacity.tested, resistance is not None and resistance.tested


def _sharpened(facts: JobFacts, run: ChargeRun, policy: Policy) -> Sharpened | None:
    asked, capacity_known, resistance_known = asked_of(facts, run)
    looks = [
        Seen(at_s=own_seconds(run.at, run.clock_s, look.at, look.clock_s), volts=look.volts, amps=look.amps)
        for look in run.looks
    ]
    try:
        return sharpen(asked, looks, capacity_known, resistance_known, policy)
    except Impossible:
        return None

"""The proof of a job on its last proving set, and how its charges came out against their forecasts."""

from datetime import datetime

from saldatura.core.assess.clock import PackClock, own_seconds, rested_s
from saldatura.core.assess.groups import GroupNow
from saldatura.core.assess.sets import Assessed
from saldatura.core.facts import ChargeRun, JobFacts
from saldatura.core.policy import Policy
from saldatura.core.prove import Proof, ProveRequest, prove_on
from saldatura.core.quantities import Value, time_words


class Compared(Value):
    """A finished charge against its forecast. `within` says whether it ended inside the range."""

    charge_id: int
    group: int
    took_s: float
    forecast_s: float
    within: bool
    landed_off_v: float
    says: str


def proof_of(
    facts: JobFacts,
    proving: Assessed | None,
    groups: list[GroupNow],
    now: datetime,
    clock: PackClock | None,
    policy: Policy,
) -> Proof | None:
    """The proof on the last proving set; rest counts to the first reading of the set, or to now while none is taken."""
    if proving is None:
        return None
    of = proving.set
    first = next(iter(facts.by_set.get(of.id, [])), None)
    until, until_clock_s = (first.at, first.clock_s) if first else (now, clock.clock_s if clock else None)
    # The slowest group to settle is the one of the greatest resistance.
    resistances = [g.resistance_ohm.value for g in groups if g.resistance_ohm is not None]
    request = ProveRequest(
        pack=facts.intake.pack,
        meter=of.meter,
        readings=proving.readings,
        rest_s=None if of.rest_since is None else rested_s(of, of.rest_since, until, until_clock_s),
        last_current_a=of.last_current_a,
        resistance_ohm=max(resistances, default=None),
    )
    return prove_on(request, proving.reconciled, policy)


def against_forecast(run: ChargeRun) -> Compared | None:
    """A charge that ended, against what was forecast when it began; None while it runs."""
    if run.end is None:
        return None
    took_s = own_seconds(run.at, run.clock_s, run.end.at, run.end.clock_s)
    within = run.forecast_low_s <= took_s <= run.forecast_high_s
    off_v = run.end.volts - run.target_v
    said = f"Took {time_words(took_s)}, forecast {time_words(run.forecast_low_s)} to {time_words(run.forecast_high_s)}"
    if run.end.outcome == "stopped":
        said += "; stopped by hand"
    elif took_s < run.forecast_low_s:
        said += ": sooner, so it held more charge than thought or has less capacity than rated"
    elif took_s > run.forecast_high_s:
        said += ": later, so its resistance is higher than usual or it leaks"
    counted = run.end.counted_ah
    if counted is not None:
        said += f". Went in {counted:.2f} Ah, forecast {run.forecast_ah:.2f} Ah"
    said += f". It rests at {run.end.volts:.2f} V, {abs(off_v) * 1000:.0f} mV {'under' if off_v < 0 else 'over'} the charger's setting."
    return Compared(
        charge_id=run.id,
        group=run.group,
        took_s=round(took_s, 1),
        forecast_s=run.forecast_s,
        within=within,
        landed_off_v=round(off_v, 4),
        says=said,
    )

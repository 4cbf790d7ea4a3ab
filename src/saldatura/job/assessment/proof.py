"""The proof of a job on its last proving set, and how its charges came out against their forecasts."""

from collections.abc import Iterator
from datetime import datetime

from saldatura.battery.limits.acceptance import LEAK_SHARE
from saldatura.battery.limits.policy import Policy
from saldatura.battery.prove.checks import Check, LeakTold, Proof, ProveRequest, prove_on, proved_lines
from saldatura.battery.quantities import ChemistryKey, Value, groups_words, time_words, volts_words
from saldatura.battery.wording import degrees
from saldatura.job.assessment.again import least_rest_s
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.odd_charges import odd_charge
from saldatura.job.assessment.rested import current_before, rested_s
from saldatura.job.assessment.sets import Assessed
from saldatura.job.assessment.stale import changed_since
from saldatura.job.assessment.words import proof as words
from saldatura.job.assessment.words.odd_charges import WHY_ODD
from saldatura.job.facts import ChargeRun, JobFacts
from saldatura.ledger.clock import PackClock, own_seconds


class Compared(Value):
    """A finished charge against its forecast. `within` says whether it ended inside the range; `looks`: what the looks at it
    found, and what cannot be as it was told.
    """

    charge_id: int
    group: int
    took_s: float
    forecast_s: float
    within: bool
    landed_off_v: float
    says: str
    looks: list[str] = []


def proof_of(
    facts: JobFacts,
    proving: Assessed | None,
    groups: list[GroupNow],
    now: datetime,
    clock: PackClock | None,
    policy: Policy,
) -> Proof | None:
    """The proof on the last proving set; rest counts to the earliest reading that stands, or to now while none does."""
    if proving is None:
        return None
    reading_set = proving.set
    rest_s = least_rest_s(facts, reading_set)
    if rest_s is None:
        rest_s = rested_s(facts, reading_set, now, clock.clock_s if clock else None)
    # The slowest group to settle is the one of the greatest resistance.
    resistances = [g.resistance_ohm.value for g in groups if g.resistance_ohm is not None]
    request = ProveRequest(
        pack=facts.intake.pack,
        meter=reading_set.meter,
        readings=proving.readings,
        rest_s=rest_s,
        last_current_a=current_before(facts, reading_set),
        resistance_ohm=max(resistances, default=None),
    )
    leak = _leak_told(groups, facts.intake.pack.rated_ah)
    proof = prove_on(request, proving.reconciled, policy, leak)
    return _with_changed(
        _with_condemned(proof, groups, facts.intake.pack.chemistry, leak), changed_since(facts, reading_set, policy)
    )


def _with_changed(proof: Proof, since: str | None) -> Proof:
    """A proof of a state that the pack is not in any more proves nothing of it: it is to be read again at rest."""
    if since is None:
        return proof
    said = since[0].lower() + since[1:]
    because = words.read_before_let(said)
    check = Check(name="standing", label=words.PACK_AS, value=None, limit=None, doubt=None, unit="groups", result="not_yet", because=because)  # fmt: skip
    if proof.result == "fail":
        return proof.model_copy(update={"checks": [check, *proof.checks], "proved": []})
    headline = words.read_it_again(said)
    return Proof(
        result="not_yet",
        headline=headline,
        checks=[check, *proof.checks],
        proved=[],
        not_proved=[*proof.proved, *proof.not_proved],
    )


def _with_condemned(proof: Proof, groups: list[GroupNow], chemistry: ChemistryKey, leak: LeakTold | None) -> Proof:
    """A pack that keeps condemned cells is not proved, however level it rests."""
    lost = [g for g in groups if g.condemned is not None]
    if not lost:
        return proof
    why = words.group_is_never_used(lost[0].group, lost[0].barred)
    checks = [
        c.model_copy(update={"result": "fail", "because": why}) if c.name == "window" else c for c in proof.checks
    ]
    return proof.model_copy(
        update={
            "result": "fail", "checks": checks, "headline": words.does_not_pass_may(groups_words([g.group for g in lost]).lower()),
            "proved": proved_lines(chemistry, checks, leak),
        }
    )  # fmt: skip


def _leak_told(groups: list[GroupNow], rated_ah: float) -> LeakTold | None:
    """The worst of what two sets at rest told of leaks; None where they do not tell of every group."""
    leaks = {g.group: g.leak_mah_day.value for g in groups if g.leak_mah_day is not None}
    if len(leaks) < len(groups) or not leaks:
        return None
    worst = max(leaks, key=lambda k: leaks[k])
    return LeakTold(worst, leaks[worst], leaks[worst] > LEAK_SHARE * rated_ah * 1000)


def against_forecast(run: ChargeRun, policy: Policy) -> Compared | None:
    """A charge that ended, against what was forecast when it began; None while it runs."""
    if run.end is None or run.end.volts is None:
        return None
    took_s = own_seconds(run.at, run.clock_s, run.end.at, run.end.clock_s)
    within = run.forecast_low_s <= took_s <= run.forecast_high_s
    off_v = run.end.volts - run.target_v
    said = words.took_forecast(took_s, run.forecast_low_s, run.forecast_high_s)
    if run.end.outcome == "stopped":
        said += words.STOPPED_BY_HAND
    elif took_s < run.forecast_low_s:
        said += words.SOONER_SO_IT_HELD
    elif took_s > run.forecast_high_s:
        said += words.LATER_SO_ITS_RESISTANCE
    counted = run.end.counted_ah
    if counted is not None:
        said += words.went_in_forecast(counted, run.forecast_ah)
    said += words.rests_at_chargers_setting(run.end.volts, off_v)
    return Compared(
        charge_id=run.id,
        group=run.group,
        took_s=round(took_s, 1),
        forecast_s=run.forecast_s,
        within=within,
        landed_off_v=round(off_v, 4),
        says=said,
        looks=list(_looks(run, policy)),
    )


def _looks(run: ChargeRun, policy: Policy) -> Iterator[str]:
    odd = odd_charge(run, policy)
    if odd is not None:
        yield words.charge_cannot(WHY_ODD[odd])
    for look in run.looks:
        after = time_words(own_seconds(run.at, run.clock_s, look.at, look.clock_s))
        read = [volts_words(look.volts)] if look.volts is not None else []
        read += [f"{look.amps:.2f} A"] if look.amps is not None else []
        read += [degrees(look.celsius)] if look.celsius is not None else []
        if read:
            yield f"After {after}: {', '.join(read)}"

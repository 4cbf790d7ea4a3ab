"""Keep a measure: ACIR, a logged step, a sensor, the power path, capacity, a wiggle test."""

from collections.abc import Mapping
from typing import Any

from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure, RunForecast
from saldatura.battery.measures.measure import NewMeasure
from saldatura.job import taking_back
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.proving import ProofCase, least_run_s, load_run_forecast
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import JobFacts
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.gates.common import group_exists, load_run, not_condemned, not_parted, work
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def measure(facts: JobFacts, new: NewMeasure, lost: Mapping[int, str] | None = None) -> None:
    """A measure of a group that is there; a run under a load is of a load that the pack is for, with nothing on a charger. `lost`: groups
    that are condemned, and why: no pack with one of them is charged or run.
    """
    work(facts)
    group_exists(facts, new.about)
    if isinstance(new, LoadRunMeasure) or (isinstance(new, FullChargeMeasure) and new.accepts):
        not_condemned(lost or {})
        not_parted(facts)
    if isinstance(new, LoadRunMeasure):
        group_exists(facts, new.group)
        load_run(facts, new.amps)
    new.check(facts.intake.pack)


def record_measure(facts: JobFacts, new: Any, moment: Moment) -> list[Fact]:
    """A measure as it is kept; a run under a load with what it was forecast to be."""
    if isinstance(new, LoadRunMeasure):
        new = new.model_copy(update={"forecast": _forecast(facts, new, moment.policy)})
    return [MeasureFact(measure=new.kept(_rated(facts, new)), **moment.stamp)]


def _rated(facts: JobFacts, new: Any) -> float:
    pack = facts.intake.pack
    return pack.whole_ah if new.about is None else pack.rated_ah


def _forecast(facts: JobFacts, run: LoadRunMeasure, policy: Policy) -> RunForecast | None:
    groups = groups_now(facts, assess_set(facts, "probe", policy), policy)
    found = load_run_forecast(ProofCase(facts, None, None, None, groups, policy, 0), run.amps)
    if found is None:
        return None
    return RunForecast(
        duration_s=found.duration_s,
        low_s=least_run_s(groups, found),
        high_s=found.duration_high_s,
        ah=found.delivered_ah,
    )


KIND = Kind(
    "measure",
    MeasureFact,
    NewMeasure,
    gate=lambda facts, new, m: measure(facts, new, lost_of(facts, m.policy)),
    make=record_measure,
    sent_from=lambda fact: fact.measure,
    against=taking_back.nothing,
    path="measures",
    summary="Keep a measure: ACIR, a logged step, a sensor, the power path, capacity, a wiggle test.",
)

"""What a repaired pack is to be proved by: which tests are due, each with its limit computed beforehand, and what came of them.

A result counts where it was taken after the last act on the pack. A limit is compared with the doubt of what was measured added.
"""

from collections.abc import Mapping
from datetime import datetime
from types import MappingProxyType

from pydantic import ValidationError

from saldatura.battery.limits.policy import Policy
from saldatura.battery.prove.checks import Proof
from saldatura.battery.prove.run_types import RunTime
from saldatura.job.assessment.equipped import has_board, sensors_of
from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.proof import proof_of
from saldatura.job.assessment.proving.case import ProofCase, acts_until, least_run_s, load_run_forecast
from saldatura.job.assessment.proving.gauge import gauge
from saldatura.job.assessment.proving.joints import board, joint, reference, sensors, wiggle
from saldatura.job.assessment.proving.load import capacity, charges, drift, full_charge, load_run, load_step, spread
from saldatura.job.assessment.proving.types import Outcome, ProofPlan, ProofTest
from saldatura.job.assessment.proving.words import plan as words
from saldatura.job.assessment.sets import Assessed, assess_set
from saldatura.job.facts import JobFacts
from saldatura.ledger.clock import PackClock

__all__ = [
    "Outcome",
    "ProofCase",
    "ProofPlan",
    "ProofTest",
    "acts_until",
    "least_run_s",
    "load_run_forecast",
    "proof_plan_now",
    "proof_plan_of",
    "proof_plan_then",
    "run_forecast",
]


DEAD_SHORT = "a dead short at the terminals (never tried by hand)"


def proof_plan_of(
    facts: JobFacts, proof: Proof | None, proving: Assessed | None, load: Assessed | None, groups: list[GroupNow], policy: Policy,
    distrusted: Mapping[int, str] = MappingProxyType({}),
) -> ProofPlan:  # fmt: skip
    """The tests of a job. Never fails: what cannot be told is said. `distrusted`: tries whose reference part was found at fault since."""
    case = ProofCase(facts, proof, proving, load, groups, policy, acts_until(facts))
    forecast = load_run_forecast(case)
    odd, of_chip = charges(case), gauge(case)
    tests = [
        wiggle(case), joint(case), *([sensors(case)] if sensors_of(facts) else []), spread(case), load_step(case), full_charge(case),
        load_run(case, forecast), capacity(case), *([board(case)] if has_board(facts) else []), drift(case, "after_day"), drift(case, "after_week"),
        *([odd] if odd is not None else []), *([of_chip] if of_chip is not None else []), *reference(facts, distrusted),
    ]  # fmt: skip
    due = [t for t in tests if t.due]
    outcomes = {t.outcome for t in due}
    outcome: Outcome = next((o for o in ("fail", "not_yet", "not_done") if o in outcomes), "pass")
    failed = [t.label.lower() for t in due if t.outcome == "fail"]
    left = [t for t in due if t.outcome in ("not_yet", "not_done")]
    says = (
        words.fails(failed) if failed else words.tests_are_open(len(left), len(due)) if left else words.EVERY_TEST_HOLDS
    )
    return ProofPlan(
        tests=tests, outcome=outcome, says=says,
        proved=[f"{t.label.lower()}: {t.measured or 'holds'}" for t in tests if t.outcome == "pass"],
        not_proved=[*[_left(t) for t in tests if t.outcome != "pass"], *([DEAD_SHORT] if has_board(facts) else [])],
        bench_min=sum(t.bench_min for t in left), wait_h=max((t.wait_h for t in left), default=0.0), run=forecast, run_a=case.load_a if forecast else None,
    )  # fmt: skip


def _left(test: ProofTest) -> str:
    how = {"fail": "fails", "not_yet": "not yet", "not_done": "not done"}[test.outcome]
    return (
        f"{test.label.lower()}: {how}" if test.due or test.outcome == "fail" else f"{test.label.lower()}: not measured"
    )


def proof_plan_now(
    facts: JobFacts, now: datetime, clock: PackClock | None, policy: Policy, distrusted: Mapping[int, str] = MappingProxyType({})
) -> ProofPlan:  # fmt: skip
    """The tests of a job as it stands."""
    probe, proving, load = (assess_set(facts, purpose, policy) for purpose in ("probe", "prove", "load"))
    groups = groups_now(facts, probe, policy)
    return proof_plan_of(
        facts, proof_of(facts, proving, groups, now, clock, policy), proving, load, groups, policy, distrusted
    )


def run_forecast(facts: JobFacts, amps: float, policy: Policy) -> RunTime | None:
    """The load run of the charged pack at so many amps; None while its groups are not read."""
    groups = groups_now(facts, assess_set(facts, "probe", policy), policy)
    return load_run_forecast(ProofCase(facts, None, None, None, groups, policy, 0), amps)


def proof_plan_then(facts: JobFacts) -> ProofPlan | None:
    """The tests of a signed job as they were signed; None for one that is open, or that was signed before there were any."""
    signed = facts.sign_off
    held = signed.results.get("proof_plan") if signed is not None else None
    try:
        return None if held is None else ProofPlan.model_validate(held)
    except ValidationError:
        return None

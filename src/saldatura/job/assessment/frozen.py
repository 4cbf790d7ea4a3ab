"""What a signed job's papers are made from: frozen with the sign-off, and the same however policy, prices, drawer and program change."""

from typing import TypeVar

from pydantic import ValidationError

from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.handing import Handed
from saldatura.job.assessment.planning import JobPlan
from saldatura.job.facts import JobFacts

T = TypeVar("T", bound=Value)


def handed_then(facts: JobFacts) -> Handed | None:
    """What customer and collection were told when the job was signed; None for an open one, and one signed before that was frozen."""
    return _then(facts, "handed", Handed)


def plan_then(facts: JobFacts) -> JobPlan | None:
    """The repairs as they stood, with the prices of that day, when the job was signed."""
    return _then(facts, "plan", JobPlan)


def policy_then(facts: JobFacts) -> Policy | None:
    """The policy that a job was signed under; None for an open one, and where it cannot be read any more."""
    held = facts.sign_off.inputs.get("policy") if facts.sign_off is not None else None
    try:
        return None if held is None else Policy.model_validate(held)
    except ValidationError:
        return None


def _then(facts: JobFacts, name: str, kind: type[T]) -> T | None:
    held = facts.sign_off.results.get(name) if facts.sign_off is not None else None
    try:
        return None if held is None else kind.model_validate(held)
    except ValidationError:
        return None

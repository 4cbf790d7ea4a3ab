"""Frozen results, in today's words and with the numbers that their facts have here."""

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from saldatura.job.assessment.judging import Judged
from saldatura.job.facts import JobFacts

Numbers = Mapping[int, int]

# What is frozen beside the assessment.
BESIDE = ("judged", "proof_plan", "handed", "plan")
# Fields that hold the number of a fact.
_REFS = ("reading_id", "tab_reading_id", "charge_id")


def today(facts: JobFacts) -> dict[str, Any]:
    """The results that a job's sign-off froze, whatever program froze them and wherever. What is new has defaults."""
    assert facts.sign_off is not None
    numbers = _numbers(facts, facts.sign_off.inputs)
    return {key: _now(value, numbers) for key, value in facts.sign_off.results.items() if key not in BESIDE}


def judged_then(facts: JobFacts) -> Judged | None:
    """The judgement that a job's sign-off froze; None where none was, or where it cannot be read any more."""
    frozen = facts.sign_off.results.get("judged") if facts.sign_off is not None else None
    try:
        return None if frozen is None else Judged.model_validate(frozen)
    except ValidationError:
        return None


def failed_then(facts: JobFacts) -> bool:
    """Whether a test of its plan had failed when the job was signed; no for one signed before there were plans."""
    held = facts.sign_off.results.get("proof_plan") if facts.sign_off is not None else None
    tests = held.get("tests") if isinstance(held, dict) else None
    return any(isinstance(t, dict) and t.get("outcome") == "fail" for t in tests or [])


def _numbers(facts: JobFacts, inputs: dict[str, Any]) -> Numbers:
    """The number of a fact now by its number then: their order has stayed."""
    then = [entry["id"] for entry in inputs["facts"]]
    return dict(zip(then, (fact.id for fact in facts.whole), strict=False))


def _now(value: Any, numbers: Numbers) -> Any:
    if isinstance(value, list):
        return [_now(item, numbers) for item in value]
    if not isinstance(value, dict):
        return value
    found = {key: _now(item, numbers) for key, item in value.items()}
    for field in _REFS:
        if isinstance(found.get(field), int):
            found[field] = numbers.get(found[field], found[field])
    if "reading_ids" in found:
        found["reading_ids"] = [numbers.get(i, i) for i in found["reading_ids"]]
    # A photo of the job, and a set of readings; a photo of its pattern is no fact here.
    if "id" in found and ("sha256" in found or "purpose" in found):
        found["id"] = numbers.get(found["id"], found["id"])
    return found

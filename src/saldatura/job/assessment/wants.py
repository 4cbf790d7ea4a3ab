"""What each stage still wants of a job, in a word or two for the ribbon."""

from saldatura.battery.prove.checks import Proof
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.sets import Assessed
from saldatura.job.facts import JobFacts
from saldatura.job.stages import Stage


def wants_of(facts: JobFacts, probe: Assessed | None, proof: Proof | None, groups: list[GroupNow]) -> dict[Stage, str]:
    """What the stages want; one that wants nothing is left out."""
    if facts.sign_off is not None:
        return {}
    if facts.quarantine:
        return {"take_in": "held"}
    if not facts.safety:
        return {"take_in": "safety"}
    wants: dict[Stage, str] = {}
    series = facts.intake.pack.series
    if facts.structure.began:
        # What was read before holds for the groups that stayed.
        known = sum(g.volts is not None and g.read_in != "drawer" for g in groups)
    else:
        known = sum(g.determined for g in probe.reconciled.groups) if probe else 0
    if known < series:
        wants["probe"] = f"{known} of {series}"
    if probe is not None and probe.verdict.kind == "readings_inconsistent":
        wants["judge"] = "doubt"
    if facts.charging is not None:
        wants["level"] = "charging"
    if proof is not None and proof.result != "pass":
        wants["prove"] = proof.result.replace("_", " ")
    return wants

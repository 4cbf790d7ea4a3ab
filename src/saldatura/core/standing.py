"""Where a job stands: one answer from its facts, used when a fact is added, when a job is brought in, and on lists."""

from datetime import datetime

from saldatura.core.facts import JobFacts
from saldatura.core.quantities import Value
from saldatura.core.stages import Stage, Standing


class JobStanding(Value):
    """Where a job stands. `waits`: something charges, or it rests before its proving set; `touched_at`: its last fact."""

    standing: Standing
    stage: Stage
    touched_at: datetime
    waits: bool


def stage_of(facts: JobFacts) -> Stage:
    """Where the technician has brought the job: the last stage moved to, or taking in."""
    return facts.stages[-1].stage if facts.stages else "take_in"


def standing_of(facts: JobFacts) -> JobStanding:
    """Where a job with these facts stands."""
    stage = stage_of(facts)
    standing: Standing = stage
    if facts.sign_off is not None:
        standing = "done"
    elif facts.quarantine:
        standing = "quarantine"
    return JobStanding(
        standing=standing,
        stage=stage,
        touched_at=max(facts.by_class.items(), key=lambda item: item[1][-1].id)[1][-1].at,
        waits=facts.charging is not None or rests(facts),
    )


def rests(facts: JobFacts) -> bool:
    """Whether the last proving set waits for its rest: none of it is read yet."""
    of = facts.last_set("prove")
    return of is not None and of.rest_since is not None and facts.sign_off is None and not facts.by_set.get(of.id)

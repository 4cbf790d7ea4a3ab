"""Where a job stands: one answer from its facts, used when a fact is added, when a job is brought in, and on lists."""

from datetime import datetime, timedelta

from saldatura.core.facts import JobFacts
from saldatura.core.quantities import Value
from saldatura.core.stages import Stage, Standing


class JobStanding(Value):
    """Where a job stands. `waits`: something charges, or it may rest before its proof; `touched_at`: its last fact."""

    standing: Standing
    stage: Stage
    touched_at: datetime
    waits: bool
    waits_until: datetime | None = None
    archived: bool = False


def stage_of(facts: JobFacts) -> Stage:
    """Where the technician has brought the job: the last stage moved to, or taking in."""
    return facts.stages[-1].stage if facts.stages else "take_in"


def standing_of(facts: JobFacts) -> JobStanding:
    """Where a job with these facts stands."""
    stage = stage_of(facts)
    standing: Standing = stage
    if facts.sign_off is not None:
        standing = "scrap" if facts.sign_off.outcome == "scrap" else "done"
    elif facts.quarantine:
        standing = "quarantine"
    return JobStanding(
        standing=standing,
        stage=stage,
        touched_at=max(facts.by_class.items(), key=lambda item: item[1][-1].id)[1][-1].at,
        waits=facts.charging is not None or may_rest(facts),
        waits_until=waits_until(facts),
        archived=facts.archived,
    )


# No rest that any policy asks for is longer.
LONGEST_REST = timedelta(days=1)


def may_rest(facts: JobFacts) -> bool:
    """Whether the last proving set may wait for its rest: none of it is read yet, or some of it was read soon after."""
    of = facts.last_set("prove")
    if of is None or of.rest_since is None or facts.sign_off is not None:
        return False
    standing = facts.standing(of.id)
    return not standing or min(r.at for r in standing) < of.rest_since + LONGEST_REST


def waits_until(facts: JobFacts) -> datetime | None:
    """When a job that waits surely does so no more, by our clock; None where that is not known.

    A proving set that was begun to be read too early is asked for again once its rest is over; nobody waits for it then.
    """
    of = facts.last_set("prove")
    if facts.charging is not None or facts.simulated or of is None or of.rest_since is None:
        return None
    return of.rest_since + LONGEST_REST if facts.standing(of.id) else None

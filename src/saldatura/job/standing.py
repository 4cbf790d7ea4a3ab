"""Where a job stands: one answer from its facts, used when a fact is added, when a job is brought in, and on lists."""

from datetime import datetime, timedelta

from saldatura.battery.quantities import Value
from saldatura.job.facts import JobFacts
from saldatura.job.facts.becoming import CellsInFact, LeftOutFact
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.wait import WaitFact, WaitOverFact
from saldatura.job.stages import STAGES, Stage, Standing


class JobStanding(Value):
    """Where a job stands. `waits`: something charges, or it may rest before its proof; `touched_at`: its last fact."""

    standing: Standing
    stage: Stage
    touched_at: datetime
    waits: bool
    waits_until: datetime | None = None
    archived: bool = False


def stage_of(facts: JobFacts) -> Stage:
    """Where the job has come to: the last stage moved to, or the one of what was done on it since, where that is further."""
    moved: Stage = facts.stages[-1].stage if facts.stages else "take_in"
    since = facts.stages[-1].id if facts.stages else 0
    done: list[tuple[Stage, list[int]]] = [
        (
            "join",
            [f.id for f in (*facts.of_kind(TickFact), *facts.recorded(CellsInFact), *facts.recorded(LeftOutFact))],
        ),
        ("level", [run.id for run in facts.charges]),
        ("prove", [s.id for s in facts.sets if s.purpose == "prove"]),
    ]
    order = list(STAGES)
    return max((moved, *(stage for stage, ids in done if any(n > since for n in ids))), key=order.index)


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
        waits=facts.charging is not None or may_rest(facts) or cures_until(facts) is not None or waited_for(facts),
        waits_until=waits_until(facts),
        archived=facts.archived,
    )


# No rest that any policy asks for is longer.
LONGEST_REST = timedelta(days=1)


def may_rest(facts: JobFacts) -> bool:
    """Whether the last proving set may wait for its rest: none of it is read yet, or some of it was read soon after."""
    reading_set = facts.last_set("prove")
    if reading_set is None or reading_set.rest_since is None or facts.sign_off is not None:
        return False
    standing = facts.standing(reading_set.id)
    return not standing or min(r.at for r in standing) < reading_set.rest_since + LONGEST_REST


def waits_until(facts: JobFacts) -> datetime | None:
    """When a job that waits surely does so no more, by our clock; None where that is not known.

    A proving set that was begun to be read too early is asked for again once its rest is over; nobody waits for it then.
    """
    if facts.charging is not None or facts.simulated or waited_for(facts):
        return None
    reading_set, cured = facts.last_set("prove"), cures_until(facts)
    if not may_rest(facts) or reading_set is None or reading_set.rest_since is None:
        return cured
    if not facts.standing(reading_set.id):
        return None
    return max(reading_set.rest_since + LONGEST_REST, cured or reading_set.rest_since)


def waited_for(facts: JobFacts) -> bool:
    """Whether a capacity test or a watch was begun that nobody said is over."""
    over = {fact.wait for fact in facts.of_kind(WaitOverFact)}
    return facts.sign_off is None and any(wait.id not in over for wait in facts.of_kind(WaitFact))


def cures_until(facts: JobFacts) -> datetime | None:
    """When what cures or cools after the last steps of a work list has done so, by our clock; None where nothing does."""
    if facts.sign_off is not None:
        return None
    return max(
        (t.at + timedelta(minutes=t.wait.minutes) for t in facts.of_kind(TickFact) if t.wait is not None), default=None
    )

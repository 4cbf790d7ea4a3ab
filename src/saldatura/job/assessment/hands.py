"""What the hands do next, over all jobs: what falls due first, then the job that is furthest along."""

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Literal

from saldatura.battery.quantities import Value
from saldatura.job.assessment.next_step import NextStep
from saldatura.job.assessment.waiting import Waiting
from saldatura.job.assessment.words import hands as words
from saldatura.job.stages import STAGES, Stage

# Where a wait that is over is gone on with.
STAGE_OF: Mapping[str, Stage] = {
    "charge": "level",
    "rest": "prove",
    "cure": "join",
    "cool": "join",
    "self_discharge": "prove",
}


class Hands(Value):
    """One act: at which job, in which stage, what is done, and why it is due; `due`: since when it should be done."""

    job_id: int
    pack_name: str
    stage: Stage
    says: str
    why: Literal["due", "furthest", "held"]
    due: datetime | None = None


def hands_next(
    steps: Iterable[tuple[int, str, NextStep | None]], waiting: Iterable[Waiting], now: datetime
) -> list[Hands]:
    """The acts that want a hand now, in order: waits that are over, the longest first; then jobs that wait for nothing, the furthest
    along first, for they free the bench soonest; those held in quarantine last. `steps`: job, pack and next step, the longest
    untouched first.
    """
    waits = list(waiting)
    due = [
        Hands(
            job_id=w.job_id, pack_name=w.pack_name, stage=STAGE_OF.get(w.kind, "prove"), says=words.over(w.kind, w.group), why="due",
            due=w.done,
        )
        for w in sorted(waits, key=lambda w: w.done)
        if w.done <= now
    ]  # fmt: skip
    busy = {w.job_id for w in waits}
    order = list(STAGES)
    free = [
        Hands(
            job_id=job,
            pack_name=pack,
            stage=step.stage,
            says=step.says,
            why="held" if step.code == "release" else "furthest",
        )
        for job, pack, step in steps
        if step is not None and job not in busy
    ]
    free.sort(key=lambda act: (act.why == "held", -order.index(act.stage)))
    return [*due, *free]

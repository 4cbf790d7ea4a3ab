"""A step of a job as a task of the day, and what holds one up."""

from datetime import datetime
from typing import Literal

from saldatura.battery.day.usual import Span, StepKind
from saldatura.battery.quantities import Value
from saldatura.job.stages import Stage

RunKind = Literal["charge", "rest", "cure", "cool", "capacity", "self_discharge", "load"]
HoldKind = Literal["quarantine", "customer", "parts", "paused", "not_told", "no_time"]
# Whether somebody must be there while it runs: all the time, when it may end, or not.
Mind = Literal["whole", "end", "none"]
# What a task still to come runs on: any charger or supply of one group, or a capacity tester.
Wanted = Literal["single", "tester"]


class Task(Value):
    """A step that wants hands, or something that runs by itself. `hands`, `runs`: minutes as ranges; `channel`: what it runs on now, `wants`: what it will; `after`: tasks of the same job that must have
    ended; `begun`: it runs since then; `due`: when it should be done; `minded`: whether somebody must be there while it runs.
    """

    name: str
    job_id: int
    step: StepKind | None
    run: RunKind | None = None
    stage: Stage
    says: str
    groups: list[int] = []
    hands: Span = Span()
    runs: Span = Span()
    channel: str | None = None
    wants: Wanted | None = None
    minded: Mind = "none"
    after: list[str] = []
    begun: datetime | None = None
    due: datetime | None = None
    look: datetime | None = None


class Hold(Value):
    """Why a job stands still, and the act that frees it, with the stage that it is done in."""

    kind: HoldKind
    says: str
    frees: str
    stage: Stage
    since: datetime | None = None


class JobDay(Value):
    """What a job wants of the day. `holds`: what its next step waits for that no clock ends; the tasks are as if it ended now. `ready`: when it was promised;
    `answered`: the customer has chosen, and what is bought is known.
    """

    job_id: int
    pack_name: str
    customer: str
    simulated: bool
    standing: str
    tasks: list[Task]
    holds: list[Hold] = []
    ready: datetime | None = None
    opened_at: datetime
    chance: float = 1.0
    answered: bool = False

"""A test that a repair is proved by, and the plan of them."""

from typing import Literal

from saldatura.battery.prove.run_types import RunTime
from saldatura.battery.quantities import Value

TestName = Literal[
    "wiggle", "joint", "sensors", "spread", "load_step", "full_charge", "load_run", "capacity", "board", "after_day", "after_week", "charges", "gauge",
    "reference",
]  # fmt: skip
Outcome = Literal["pass", "fail", "not_yet", "not_done"]


def outcome_of(taken: bool, fresh: bool, holds: bool) -> Outcome:
    """What a test came to: whether it was taken, after the last act on the pack, and whether it held its limit."""
    if not taken:
        return "not_done"
    return ("pass" if holds else "fail") if fresh else "not_yet"


class ProofTest(Value):
    """A test: whether it is due and why; how long it takes at the bench and is waited for; its limit and its forecast in words; what was
    measured, and what that means. `then`: the stage that a failure leads back to; `plain`: what a pass means to whoever uses the pack, where
    that is more or less than its name says.
    """

    name: TestName
    label: str
    due: bool
    why: str
    bench_min: float
    wait_h: float
    limit: str
    forecast: str = ""
    measured: str = ""
    outcome: Outcome = "not_done"
    because: str = ""
    caution: str = ""
    plain: str = ""
    then: Literal["judge", "join", "level", ""] = ""


def outcome_as(base: ProofTest, **more: object) -> ProofTest:
    """A test with what came of it."""
    return base.model_copy(update=more)


class ProofPlan(Value):
    """The tests in their order, the outcome of all that are due, and what is not proved. `run`: the load run as forecast."""

    tests: list[ProofTest]
    outcome: Outcome
    says: str
    proved: list[str]
    not_proved: list[str]
    bench_min: float
    wait_h: float
    run: RunTime | None = None
    run_a: float | None = None

"""Random work on a bench: whatever is done in whatever order, facts only grow, and what is derived agrees with them."""

import json
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import hypothesis.strategies as st
from hypothesis import HealthCheck, settings
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.quantities import GroupPoint, PackPoint, Point, TapPoint
from saldatura.job.facts import (
    DANGERS,
    EndOfCharge,
    JobFacts,
    NewCharge,
    NewReading,
    NewSet,
    NewSignOff,
    NewStage,
    Release,
    ReleaseFact,
    Safety,
    SafetyFact,
    SignOffFact,
    StageFact,
)
from saldatura.records import jobs
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.conftest import SAFE, intake
from tests.searching import examples

SERIES = 3
points = st.one_of(
    st.integers(1, SERIES).map(lambda k: TapPoint(tap=k)),
    st.integers(1, SERIES).map(lambda k: GroupPoint(group=k)),
    st.just(PackPoint()),
)


def standing_from(facts: JobFacts) -> str:
    """Where a job stands, told from its facts alone, one after the other."""
    held, stage, signed = False, "take_in", False
    for fact in facts.whole:
        match fact:
            case SafetyFact():
                held = held or any(getattr(fact, danger) for danger in DANGERS)
            case ReleaseFact():
                held = False
            case StageFact():
                stage = fact.stage
            case SignOffFact():
                signed = True
    return "done" if signed else "quarantine" if held else stage


class Work(RuleBasedStateMachine):
    """One technician, one pack, and no plan."""

    @initialize()
    def open_the_shop(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.at = datetime(2026, 3, 2, tzinfo=UTC)
        self.bench = Bench(Database(Path(self.folder.name) / "data.sqlite3"), now=self.clock)
        self.job = self.bench.take_in(intake(series=SERIES), None).facts.id
        self.keys = 0
        self.seen: list[str] = []
        self.refused = 0

    def clock(self) -> datetime:
        self.at += timedelta(seconds=37)
        return self.at

    def attempt(self, new: object) -> None:
        try:
            self.bench.add(self.job, new)
        except (Refused, Impossible):
            self.refused += 1

    @rule(found=st.sets(st.sampled_from(DANGERS), max_size=1))
    def screen(self, found: set[str]) -> None:
        self.attempt(Safety(**{hazard: hazard in found for hazard in DANGERS}))

    @rule()
    def screen_and_find_nothing(self) -> None:
        self.attempt(SAFE)

    @rule()
    def release(self) -> None:
        self.attempt(Release(by="Ilka", reason="looked at and dry", cells="in the sand box"))

    @rule(point=points, volts=st.one_of(st.none(), st.floats(-1, 13)), replace=st.booleans())
    def read(self, point: Point, volts: float | None, replace: bool) -> None:
        self.keys += 1
        facts = self.bench.facts(self.job)
        same = [r.id for r in facts.readings if r.point == point]
        old = same[-1] if replace and same else None
        self.attempt(NewReading(point=point, volts=volts, key=f"random-{self.keys}", supersedes=old))

    @rule(low=st.floats(0.5, 4.1))
    def read_every_group(self, low: float) -> None:
        self.attempt(NewSet(purpose="probe"))
        for k, v in enumerate([4.0, low, 4.0]):
            self.keys += 1
            self.attempt(NewReading(point=GroupPoint(group=k + 1), volts=v, key=f"random-{self.keys}"))

    @rule(group=st.integers(1, SERIES), to=st.sampled_from(["full", "match", "storage"]))
    def charge(self, group: int, to: str) -> None:
        self.attempt(NewCharge(group=group, target=to))

    @rule(volts=st.floats(3.0, 4.2))
    def end_charge(self, volts: float) -> None:
        running = [run.id for run in self.bench.facts(self.job).charges if run.end is None]
        for run in running:
            self.attempt(EndOfCharge(charge=run, outcome="finished", volts=volts))

    @rule(stage=st.sampled_from(["probe", "judge", "level", "prove", "hand_over"]))
    def move(self, stage: str) -> None:
        self.attempt(NewStage(stage=stage))

    @rule(reason=st.sampled_from(["", "customer waits"]))
    def sign(self, reason: str) -> None:
        self.attempt(NewSignOff(by="Ilka", reason=reason))

    @invariant()
    def what_was_once_recorded_is_still_there(self) -> None:
        now = [json.dumps(fact, sort_keys=True) for fact in self.bench.export(self.job).job["facts"]]
        assert now[: len(self.seen)] == self.seen
        self.seen = now

    @invariant()
    def the_list_says_what_the_facts_say(self) -> None:
        facts = self.bench.facts(self.job)
        row = jobs.listed(self.bench.db.read(), None, "", 10)[0]
        assert row["standing"] == standing_from(facts)
        assert jobs.counts(self.bench.db.read()) == {row["standing"]: 1}

    @invariant()
    def no_work_was_recorded_in_quarantine_or_on_a_group_under_the_floor(self) -> None:
        facts = self.bench.facts(self.job)
        assert all(run.start_v >= 1.5 for run in facts.charges)
        assert sum(run.end is None for run in facts.charges) <= 1
        if facts.readings:
            assert facts.safety

    @invariant()
    def every_state_can_be_judged_and_carried_elsewhere(self) -> None:
        view = self.bench.view(self.job)
        document = json.loads(self.bench.export(self.job).model_dump_json())
        with tempfile.TemporaryDirectory() as folder:
            other = Bench(Database(Path(folder) / "other.sqlite3"), now=lambda: self.at)
            back = other.bring_in(document)
            assert back.assessment.standing == view.assessment.standing == standing_from(self.bench.facts(self.job))
            there, here = back.assessment, view.assessment
            assert (there.probe is None) == (here.probe is None)
            if here.probe and there.probe:
                assert there.probe.verdict == here.probe.verdict
            assert there.groups == [
                g.model_copy(update={"since_charge": t.since_charge})
                for g, t in zip(here.groups, there.groups, strict=True)
            ]
            other.db.close()

    def teardown(self) -> None:
        if hasattr(self, "bench"):
            self.bench.db.close()
            self.folder.cleanup()


TestRandomWork = Work.TestCase
TestRandomWork.settings = settings(
    max_examples=examples(12),
    stateful_step_count=14,
    deadline=None,
    suppress_health_check=list(HealthCheck),
)

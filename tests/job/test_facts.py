"""Facts in the order of record: what holds follows from their order alone, grows without changing, and is never told stale."""

import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy, choices
from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import GroupPoint, Pack, TapPoint
from saldatura.job.admission import Admission
from saldatura.job.assessment import PackClock, assess, view_of
from saldatura.job.assessment.rest import last_current
from saldatura.job.assessment.story import held_of
from saldatura.job.facts import (
    DANGERS,
    ChargeBegun,
    ChargeEnd,
    Fact,
    IntakeFact,
    JobFacts,
    NewReading,
    NewSet,
    NewStage,
    ReadingFact,
    Release,
    ReleaseFact,
    ReplacedFact,
    SafetyFact,
    SetFact,
    StageFact,
    TakenBackFact,
    WorkFact,
)
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.job.registry import KINDS
from saldatura.job.stages import STAGES
from saldatura.job.standing import standing_of
from saldatura.ledger.registry import BY_FACT, kind_of, read, renumbered, written
from tests.refusing import refuses

AT = datetime(2026, 3, 2, 8, tzinfo=UTC)
PACK = Pack(chemistry="nmc", series=3, parallel=2, rated_ah=4.0)
MOMENT = Moment(at=AT, policy=DEFAULT_POLICY, meter=Meter())
NOTHING = dict.fromkeys(DANGERS, False)


def intake(number: int = 1, at: datetime = AT) -> IntakeFact:
    return IntakeFact(customer="Row team Z", pack_name="Test pack", pack=PACK, id=number, at=at)


def job(*facts: Fact) -> JobFacts:
    return JobFacts(id=1, uid="test-uid-1", opened_at=AT).with_facts([intake(), *facts])


# Times that mean nothing: a clock that jumps as it likes.
jumping = st.integers(-100_000, 100_000).map(lambda s: AT + timedelta(seconds=s))
told = st.one_of(
    st.builds(lambda at, found: ("safety", at, found), jumping, st.sets(st.sampled_from(DANGERS), max_size=2)),
    st.builds(lambda at: ("release", at, None), jumping),
    st.builds(lambda at, stage: ("stage", at, stage), jumping, st.sampled_from(list(STAGES))),
)


@given(story=st.lists(told, max_size=12))
def test_standing_follows_from_the_order_of_record_whatever_the_clock_said(story: list[Any]) -> None:
    facts, held, stage = job(), set[str](), "take_in"
    for number, (kind, at, what) in enumerate(story, start=2):
        if kind == "safety":
            facts = facts.with_facts([SafetyFact(**{**NOTHING, **dict.fromkeys(what, True)}, id=number, at=at)])
            held |= what
        elif kind == "release":
            facts = facts.with_facts([ReleaseFact(by="Ilka", reason="it is safe", id=number, at=at)])
            held.clear()
        else:
            facts = facts.with_facts([StageFact(stage=what, id=number, at=at)])
            stage = what
        now = standing_of(facts)
        assert (now.stage, now.standing) == (stage, "quarantine" if held else stage)
        assert set(facts.quarantine) == held
        open_ = [h for h in held_of(facts) if h.release is None]
        assert {d for h in open_ for d in h.dangers} == held
    assert [fact.id for fact in facts.whole] == list(range(1, len(story) + 2))


def test_a_job_grows_and_what_it_was_stays_as_it_was() -> None:
    before = job(SafetyFact(**NOTHING, id=2, at=AT))
    after = before.with_facts([StageFact(stage="judge", id=3, at=AT)])
    assert before.stages == []
    assert after.stages[0].stage == "judge"
    assert (before.last_id, after.last_id) == (2, 3)
    back = after.with_facts([TakenBackFact(fact=3, reason="wrong job", id=4, at=AT)])
    assert back.stages == []
    assert [fact.id for fact in back.whole] == [1, 2, 3, 4]


def reading(number: int, group: int, volts: float | None, set_id: int = 3, old: int | None = None) -> ReadingFact:
    point = GroupPoint(group=group)
    return ReadingFact(set_id=set_id, point=point, volts=volts, supersedes=old, key=f"k-{number}", id=number, at=AT)


def grown(rng: random.Random) -> list[JobFacts]:
    """A job as it grows by one fact after the other: sets, readings and their corrections, charges, measures, intakes."""
    facts = job(SafetyFact(**NOTHING, id=2, at=AT), SetFact(meter=Meter(), id=3, at=AT))
    found, open_set, last = [facts], 3, dict[int, int]()
    for number in range(4, 30):
        roll = rng.random()
        new: Fact
        if roll < 0.6:
            group = rng.randint(1, 3)
            old = last.get(group) if rng.random() < 0.4 else None
            new = reading(number, group, round(rng.uniform(3.4, 4.1), 3), open_set, old)
            last[group] = number
        elif roll < 0.7:
            new, open_set, last = SetFact(meter=Meter(), id=number, at=AT, purpose="probe"), number, {}
        elif roll < 0.78:
            measure = CapacityMeasure(
                source="a tester", group=2, ah=rng.uniform(1, 4), wh=8, seconds=3600, mean_a=2, end_v=3
            )
            new = MeasureFact(measure=measure, id=number, at=AT)
        elif roll < 0.8:
            work = {"did": "mended_wire", "place": {"kind": "tap", "tap": rng.randint(0, 3)}, "by": "Ilka"}
            new = WorkFact.model_validate({**work, "id": number, "at": AT})
        elif roll < 0.82 and facts.readings:
            new = TakenBackFact(fact=rng.choice(facts.readings).id, reason="wrong point", id=number, at=AT)
        elif roll < 0.84:
            new = ReplacedFact(group=2, by="Ilka", id=number, at=AT)
        elif roll < 0.92:
            new = intake(number).model_copy(update={"symptoms": rng.sample(["full_at_once", "dies_under_load"], 1)})
        else:
            new = MeasureFact(measure=AcirMeasure(group=1, ohm=0.02), id=number, at=AT)
        facts = facts.with_facts([new])
        found.append(facts)
    return found


@pytest.mark.parametrize("seed", range(6))
def test_what_was_worked_out_before_is_never_told_of_facts_that_have_changed(seed: int) -> None:
    """The memo that a job hands on as it grows, against the same facts with nothing remembered."""
    rng = random.Random(seed)
    policy = DEFAULT_POLICY
    for facts in grown(rng):
        if rng.random() < 0.2:
            policy = Policy(proof_soc=rng.choice([0.02, 0.05, 0.1]))
        forgetful = JobFacts(id=1, uid=facts.uid, opened_at=AT).with_facts(facts.whole)
        assert assess(facts, AT, None, policy) == assess(forgetful, AT, None, policy)


def test_two_futures_of_one_job_do_not_tell_each_other_s_readings() -> None:
    """A fact that was rolled back leaves nothing behind, though another takes its number."""
    base = job(
        SafetyFact(**NOTHING, id=2, at=AT), SetFact(meter=Meter(), id=3, at=AT), reading(4, 1, 3.9), reading(5, 2, 3.9)
    )
    low = view_of(base.with_facts([reading(6, 3, 3.4)]), AT, None, DEFAULT_POLICY)
    level = view_of(base.with_facts([reading(6, 3, 3.9)]), AT, None, DEFAULT_POLICY)
    assert low.assessment.probe is not None
    assert level.assessment.probe is not None
    assert (low.assessment.probe.verdict.kind, level.assessment.probe.verdict.kind) == ("imbalanced", "sound")


def test_every_kind_is_written_and_read_back_as_it_was() -> None:
    facts = grown(random.Random(3))[-1].whole
    for fact in facts:
        entry = written(fact)
        assert set(entry) == {"kind", "id", "at", "clock_s", "body"}
        assert read(entry["kind"], entry["id"], entry["at"], entry["clock_s"], entry["body"]) == fact
    assert len({kind.name for kind in KINDS}) == len(KINDS) == len(BY_FACT)
    # What refers to another fact follows it to its new number.
    moved = renumbered(reading(6, 3, 3.4, set_id=3, old=5), {3: 103, 5: 105}, 106)
    assert (moved.id, moved.set_id, moved.supersedes) == (106, 103, 105)  # type: ignore[attr-defined]


def admitted(*facts: Fact) -> JobFacts:
    admission = Admission("test-uid-1", AT, AT, DEFAULT_POLICY)
    for fact in facts:
        admission.admit(fact)
    return admission.done()


SCREENED = SafetyFact(**NOTHING, id=2, at=AT)
HOT = SafetyFact(**{**NOTHING, "hot": True}, id=2, at=AT)
A_SET = SetFact(meter=Meter(), id=3, at=AT)
BEGUN = ChargeBegun(
    group=2, target="full", start_v=3.5, target_v=4.2, current_a=2, cutoff_a=0.2, forecast_s=1, forecast_low_s=1,
    forecast_high_s=1, forecast_ah=1, look_again_s=[], id=4, at=AT,
)  # fmt: skip
READ = [reading(4 + k, k, 3.5 if k == 2 else 3.9) for k in (1, 2, 3)]
LOW = [reading(4 + k, k, 0.6 if k == 2 else 3.9) for k in (1, 2, 3)]


@pytest.mark.parametrize(
    ("facts", "code"),
    [
        ([SCREENED], "intake_not_first"),
        ([intake(), A_SET], "safety_not_acknowledged"),
        ([intake(), HOT, A_SET], "in_quarantine"),
        ([intake(), SCREENED, reading(4, 1, 3.9)], "no_such_set"),
        ([intake(), SCREENED, A_SET, reading(4, 9, 3.9)], "no_such_point"),
        ([intake(), SCREENED, A_SET, reading(4, 1, 3.9, old=3)], "no_such_reading"),
        ([intake(), SCREENED, A_SET, BEGUN], "group_not_settled"),
        (
            [intake(), SCREENED, A_SET, *READ, BEGUN.model_copy(update={"id": 9}), BEGUN.model_copy(update={"id": 10})],
            "group_charging",
        ),
        ([intake(), SCREENED, A_SET, *LOW, BEGUN.model_copy(update={"id": 9, "start_v": 3.0})], "group_lost"),
        ([intake(), SCREENED, A_SET, *READ, BEGUN.model_copy(update={"id": 9, "target_v": 60.0})], "target_above_full"),
        ([intake(), SCREENED, A_SET, *READ, BEGUN.model_copy(update={"id": 9, "current_a": 5000.0})], "above_one_c"),
        ([intake(), SCREENED, A_SET, BEGUN.model_copy(update={"start_v": -0.2})], "under_floor"),
        ([intake(), SCREENED, ChargeEnd(charge=9, outcome="finished", volts=4, id=5, at=AT)], "no_such_charge"),
        ([intake(), SCREENED, TakenBackFact(fact=2, reason="because", id=5, at=AT)], "stays_on_record"),
        ([intake(), intake()], "number_twice"),
        ([intake(at=AT.replace(year=9999))], "dated_ahead"),
    ],
)
def test_a_file_s_facts_pass_the_same_gates_in_their_order(facts: list[Fact], code: str) -> None:
    with refuses(code):
        admitted(*facts)


def test_an_act_records_what_it_sends_with_the_moment_s_time_and_the_pack_s_clock() -> None:
    moment = Moment(
        at=AT, policy=DEFAULT_POLICY, meter=Meter(percent=0.3), clock=PackClock(clock_s=77.0, speed=60, paused=False)
    )
    facts = job(SCREENED)
    of, taken = kind_of(NewReading(point=TapPoint(tap=1), volts=4.0, key="one-read-1")).facts_of(
        facts, NewReading(point=TapPoint(tap=1), volts=4.0, key="one-read-1"), moment
    )
    assert isinstance(of, SetFact)
    assert isinstance(taken, ReadingFact)
    # Its set is begun with it, on the shop's meter, and named by a number that stands for it until both are stored.
    assert (of.meter.percent, of.clock_s, taken.set_id, taken.clock_s) == (0.3, 77.0, of.id, 77.0)
    stored = facts.with_facts([renumbered(of, {}, 3), renumbered(taken, {of.id: 3}, 4)])
    # The same key again, as when an answer was lost, records nothing.
    assert kind_of(NewSet()).name == "set"
    assert (
        kind_of(NewReading(point=TapPoint(tap=1), volts=4.0, key="one-read-1")).facts_of(
            stored, NewReading(point=TapPoint(tap=1), volts=4.0, key="one-read-1"), moment
        )
        == []
    )


def test_gates_name_themselves_and_say_the_way_on() -> None:
    unscreened, held = job(), job(HOT)
    for facts, gate, code in ((unscreened, "safety", "safety_not_acknowledged"), (held, "quarantine", "in_quarantine")):
        with refuses(code) as refused:
            kind_of(NewStage(stage="probe")).facts_of(facts, NewStage(stage="probe"), MOMENT)
        assert getattr(refused.value, "gate", None) == gate
    with refuses("not_in_quarantine"):
        gates.release(job(SCREENED), Release(by="Ilka", reason="because"))


def test_the_last_current_is_the_last_by_the_order_of_record() -> None:
    facts = job(SCREENED, A_SET, BEGUN)
    running = last_current(facts, AT + timedelta(hours=1))
    assert running is not None
    assert running.at == AT + timedelta(hours=1)
    ended = facts.with_facts([ChargeEnd(charge=4, outcome="finished", volts=4.1, id=5, at=AT - timedelta(days=2))])
    last = last_current(ended, AT)
    assert last is not None
    # The clock was set back while it charged; it is the last all the same.
    assert (last.at, last.amps, last.what) == (AT - timedelta(days=2), 2.0, "the charge of group 2")
    assert last_current(job(SCREENED, A_SET), AT) is None


@given(st.data())
def test_a_policy_moves_within_its_hard_limits_and_no_further(data: st.DataObject) -> None:
    choice = data.draw(st.sampled_from(choices()))
    inside = data.draw(st.floats(choice.low, choice.high))
    assert getattr(Policy(**{choice.key: inside}), choice.key) == inside
    for outside, code in ((choice.low - 1e-6, "greater_than_equal"), (choice.high + 1e-6, "less_than_equal")):
        with refuses(code):
            Policy(**{choice.key: outside})
    assert choice.low <= choice.default <= choice.high
    assert choice.reason
    assert choice.title


@given(raised=st.floats(0, 0.5), normal=st.floats(0, 0.5), key=st.sampled_from(["nmc", "lipo", "lfp", "nimh"]))
def test_floors_are_raised_and_never_lowered_and_bands_stay_in_order(raised: float, normal: float, key: Any) -> None:
    usual = DEFAULT_POLICY.window(key)
    window = Policy(floor_raise_v=raised, normal_raise_v=normal).window(key)
    assert window.rest_floor_v >= usual.rest_floor_v
    assert (
        window.rest_floor_v
        <= window.slow_precharge_below_v
        <= window.charge_normally_from_v
        <= window.precharge_below_v
    )

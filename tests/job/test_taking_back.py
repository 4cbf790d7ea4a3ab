"""Acts that are taken back, whatever they were and in whatever order: what is left is as if they had never been."""

from datetime import UTC, datetime, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import GroupPoint, Pack, PackPoint, Point, SpanPoint, TapPoint
from saldatura.job.assessment import assess
from saldatura.job.facts import (
    Intake,
    IntakeFact,
    JobFacts,
    NewLead,
    NewNote,
    NewReading,
    NewSet,
    NewStage,
    NewTry,
    NewWork,
    Release,
    ReplacedGroup,
    Safety,
    SafetyFact,
)
from saldatura.job.facts.work import WorkPlace, touches
from saldatura.job.moment import Moment
from saldatura.job.registry import AGAINST, KINDS
from saldatura.job.taking_back import last_act
from saldatura.ledger.fact import Fact, TakenBack, TakenBackFact
from saldatura.ledger.registry import kind_of, renumbered
from tests.refusing import refuses

AT = datetime(2026, 3, 2, 8, tzinfo=UTC)
NOTHING = dict.fromkeys(("swollen", "leaking", "hot", "wet", "crushed", "smell"), False)
SERIES = 4
PACK = Pack(chemistry="nmc", series=SERIES, parallel=2, rated_ah=4.0)


def taken_in() -> JobFacts:
    pack = PACK
    return JobFacts(uid="test", opened_at=AT).with_facts(
        [
            IntakeFact(customer="Row team Z", pack_name="Test", pack=pack, id=1, at=AT),
            SafetyFact(**NOTHING, id=2, at=AT),
        ]
    )


def acted(facts: JobFacts, new: Any, minutes: int) -> JobFacts:
    """The job after an act, past its gate."""
    moment = Moment(at=AT + timedelta(minutes=minutes), policy=DEFAULT_POLICY, meter=Meter())
    numbers: dict[int, int] = {}
    found: list[Fact] = []
    for number, fact in enumerate(kind_of(new).facts_of(facts, new, moment), start=facts.last_id + 1):
        found.append(renumbered(fact, numbers, number))
        numbers[fact.id] = number
    return facts.with_facts(found)


groups = st.integers(1, SERIES)
acts = st.one_of(
    st.builds(
        lambda g, v: NewReading(point=GroupPoint(group=g), volts=v, key="each-its-own"),
        groups, st.sampled_from([3.4, 3.9, 3.92, 4.1]),
    ),
    st.builds(lambda purpose: NewSet(purpose=purpose), st.sampled_from(["probe", "prove"])),
    st.builds(lambda stage: NewStage(stage=stage), st.sampled_from(["probe", "judge", "level"])),
    st.builds(lambda g: AcirMeasure(group=g, ohm=0.02), groups),
    st.builds(lambda v: NewLead(lead="red", volts=v), st.sampled_from([3.9, 7.8, None])),
    st.builds(lambda text: NewNote(text=text), st.sampled_from(["smells", "sounds"])),
    st.just(NewTry.model_validate({"evidence": {"kind": "action", "did": "reseated", "result": "fault_stays"}})),
    st.builds(
        lambda t: NewWork.model_validate({"did": "mended_wire", "place": {"kind": "tap", "tap": t}, "by": "Ilka"}),
        st.integers(0, SERIES),
    ),
    st.builds(lambda g: ReplacedGroup(group=g, by="Ilka"), groups),
)  # fmt: skip


def standing(facts: JobFacts) -> list[Fact]:
    return [f for f in facts.whole if f.id not in facts.taken_back and not isinstance(f, TakenBackFact)]


@given(done=st.lists(acts, max_size=8))
def test_undone_one_by_one_the_job_is_at_each_step_as_if_the_act_had_never_been(done: list[Any]) -> None:
    facts = taken_in()
    before = len(standing(facts))
    for minutes, new in enumerate(done):
        keyed = new.model_copy(update={"key": f"act-{minutes:08d}"}) if isinstance(new, NewReading) else new
        facts = acted(facts, keyed, minutes)
    for minutes in range(len(facts.whole)):
        act = last_act(facts, AGAINST)
        if act is None:
            break
        left = [f for f in standing(facts) if f.id != act.fact]
        assert max(f.id for f in standing(facts)) == act.fact
        facts = acted(facts, TakenBack(fact=act.fact, reason="undone"), 100 + minutes)
        assert standing(facts) == left
        never = JobFacts(uid=facts.uid, opened_at=AT).with_facts(left)
        now = AT + timedelta(days=1)
        with_it, without = (assess(f, now, None, DEFAULT_POLICY, AGAINST) for f in (facts, never))
        assert with_it.model_copy(update={"undo": None, "redo": None}) == without.model_copy(
            update={"undo": None, "redo": None}
        )
        with refuses("taken_back_already"):
            acted(facts, TakenBack(fact=act.fact, reason="again"), 200)
    # Intake and screen stay, whatever is undone.
    assert len(standing(facts)) == before
    assert last_act(facts, AGAINST) is None


def test_what_others_rest_on_and_what_must_stay_is_not_taken_back() -> None:
    facts = taken_in()
    for minutes, (group, volts, old) in enumerate([(1, 3.9, None), (1, 3.4, 4)]):
        facts = acted(facts, NewReading(point=GroupPoint(group=group), volts=volts, key=f"read-{minutes:04d}", supersedes=old), minutes)  # fmt: skip
    refused = {1: "stays_on_record", 2: "stays_on_record", 3: "readings_stand", 4: "corrected_later"}
    for number, code in refused.items():
        with refuses(code):
            acted(facts, TakenBack(fact=number, reason="wrong"), 9)
    with refuses("no_such_fact"):
        acted(facts, TakenBack(fact=99, reason="wrong"), 9)


def test_a_release_is_taken_back_only_while_nothing_was_done_since() -> None:
    facts = acted(taken_in(), Safety(**{**NOTHING, "smell": True}), 1)
    released = acted(facts, Release(by="Ilka", reason="it was the glue"), 2)
    assert released.quarantine == []
    number = released.last_id
    back = acted(released, TakenBack(fact=number, reason="it smells again"), 3)
    assert back.quarantine == ["smell"]
    went_on = acted(released, NewStage(stage="judge"), 4)
    with refuses("went_on_since"):
        acted(went_on, TakenBack(fact=number, reason="it smells again"), 5)


def test_every_kind_of_a_job_says_whether_it_may_be_taken_back() -> None:
    never = {kind.name for kind in KINDS if kind.subject == "job" and kind.against is None}
    assert never == {
        "intake",
        "safety",
        "harvested",
        "charge_stop",
        "virtual_pack",
        "taken_back",
        "sign_off",
        "clock_jumped",
        "lesson",
    }


points: st.SearchStrategy[Point] = st.one_of(
    st.builds(TapPoint, tap=st.integers(1, SERIES)),
    st.builds(GroupPoint, group=groups),
    st.tuples(st.integers(0, SERIES), st.integers(0, SERIES)).filter(lambda t: t[0] < t[1]).map(lambda t: SpanPoint(from_tap=t[0], to_tap=t[1])),
    st.just(PackPoint()),
)  # fmt: skip
PLACE: TypeAdapter[WorkPlace] = TypeAdapter(WorkPlace)


@given(point=points, tap=st.integers(0, SERIES), group=groups)
def test_work_asks_again_for_what_begins_or_ends_at_it_and_for_nothing_else(point: Point, tap: int, group: int) -> None:
    ends = {
        "tap": lambda p: {0, p.tap},
        "group": lambda p: {p.group - 1, p.group},
        "span": lambda p: {p.from_tap, p.to_tap},
    }
    at = ends[point.kind](point) if point.kind != "pack" else set()
    assert touches(PLACE.validate_python({"kind": "tap", "tap": tap}), point, PACK) == (tap in at)
    # A joint of a group shows where the group is the newest of what is read.
    assert touches(PLACE.validate_python({"kind": "group", "group": group}), point, PACK) == (
        bool(at) and max(at) == group
    )
    assert touches(PLACE.validate_python({"kind": "terminals"}), point, PACK) == (point.kind == "pack")
    assert not touches(PLACE.validate_python({"kind": "part", "part": "sensor plug"}), point, PACK)


def test_an_intake_of_another_pack_is_no_act_to_undo() -> None:
    facts = taken_in()
    other = Intake(customer="Row team Z", pack_name="Other", pack=facts.intake.pack)
    assert last_act(acted(facts, other, 1), AGAINST) is None

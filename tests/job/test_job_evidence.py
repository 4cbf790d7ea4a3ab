"""What a job's facts are as evidence: each reading, measure and saying once, and as what it is."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.path import PathMeasure
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.kinds.step import StepMeasure
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure
from saldatura.battery.measures.sensor import SensorRequest
from saldatura.battery.measures.step import StepPoint, StepRequest
from saldatura.battery.quantities import GroupPoint, Pack, PackPoint, SpanPoint, TapPoint
from saldatura.battery.string.path import TEMPLATES, PathRequest
from saldatura.job.assessment import assess_set
from saldatura.job.assessment.evidence import Piece, pieces_of
from saldatura.job.facts import EndOfCharge, Intake, NewCharge, NewNote, NewReading, NewSet, NewWork, Safety
from saldatura.ledger.fact import TakenBack
from saldatura.records.bench import Bench

SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


@pytest.fixture
def job(bench: Bench) -> int:
    pack = Pack(chemistry="nmc", series=3, parallel=2, rated_ah=4.0)
    intake = Intake(customer="Row team Z", pack_name="Test pack", pack=pack, symptoms=["dead", "was_dropped"])
    return bench.take_in(intake, SAFE).facts.id


def pieces(bench: Bench, job: int) -> list[Piece]:
    facts = bench.facts(job)
    probe, load = (assess_set(facts, purpose, DEFAULT_POLICY) for purpose in ("probe", "load"))
    return pieces_of(facts, probe, load, DEFAULT_POLICY)


def dumped(found: list[Piece]) -> list[dict[str, Any]]:
    return [e.model_dump(exclude_none=True) for p in found for e in p.evidence]


def read(bench: Bench, job: int, point: Any, volts: float, **more: Any) -> None:
    key = f"evidence-{job}-{bench.facts(job).last_id}"
    bench.add(job, NewReading(point=point, volts=volts, key=key, **more))


def test_each_reading_is_what_it_was_read_at(bench: Bench, job: int) -> None:
    bench.add(job, NewSet(rest_since=bench.now() - timedelta(hours=5)))
    read(bench, job, TapPoint(tap=1), 3.9)
    read(bench, job, GroupPoint(group=2), 3.91)
    read(bench, job, GroupPoint(group=2), 3.92, place="tab")
    read(bench, job, SpanPoint(from_tap=1, to_tap=3), 7.81)
    read(bench, job, PackPoint(), 11.7)
    found = pieces(bench, job)
    assert [p.came_from for p in found] == ["take_in", "probe"]
    assert dumped(found[:1]) == [{"kind": "tool", "does": "dead"}, {"kind": "history", "what": "dropped"}]
    kinds = {e["kind"]: e for e in dumped(found[1:])}
    assert set(kinds) == {"tap_v", "group_v", "cell_direct_v", "span_v", "terminal_v"}
    assert kinds["cell_direct_v"]["volts"] == 3.92
    assert kinds["group_v"]["rested_h"] == pytest.approx(5, abs=0.1)
    assert (kinds["span_v"]["from_tap"], kinds["span_v"]["to_tap"]) == (1, 3)
    # The doubt is the meter's, as the readings carry it.
    assert 0.001 < kinds["group_v"]["sigma_v"] < 0.02


def test_a_pack_that_is_mended_and_proved_is_argued_as_it_came_until_it_is_mended_anew(bench: Bench, job: int) -> None:
    for group, volts in ((1, 3.9), (2, 3.4), (3, 3.9)):
        read(bench, job, GroupPoint(group=group), volts)
    came = bench.judgement(job)
    assert not came.before_repair
    bench.add(job, NewWork(did="rewelded", place={"kind": "group", "group": 2}, by="Row"))
    bench.add(job, NewNote(evidence=[{"kind": "tool", "does": "normal"}]))
    assert not bench.judgement(job).before_repair
    bench.add(job, NewSet(purpose="prove", rest_since=bench.now() - timedelta(hours=9)))
    assert not bench.judgement(job).before_repair
    for group in (1, 2, 3):
        read(bench, job, GroupPoint(group=group), 3.9, purpose="prove")
    proved = bench.judgement(job)
    assert proved.before_repair
    assert proved.judgement == came.judgement
    # What fails a test of its proof is judged as it is, whichever test it is.
    refused = bench.add(job, FullChargeMeasure(accepts=False, ended_itself=False)).facts.last_id
    assert not bench.judgement(job).before_repair
    bench.add(job, TakenBack(fact=refused, reason="wrong charger"))
    assert bench.judgement(job).before_repair
    second = next(
        r.id for r in bench.facts(job).standing(bench.facts(job).sets[-1].id) if r.point == GroupPoint(group=2)
    )
    read(bench, job, GroupPoint(group=2), 3.3, purpose="prove", supersedes=second, reason="read again")
    assert not bench.judgement(job).before_repair


def test_a_slip_of_the_unit_that_was_kept_is_no_evidence_and_stops_no_judgement(bench: Bench, job: int) -> None:
    for group, volts in ((1, 3.9), (2, 390.0), (3, 3.9)):
        read(bench, job, GroupPoint(group=group), volts)
    assert [e["group"] for e in dumped(pieces(bench, job)) if e["kind"] == "group_v"] == [1, 3]
    assert bench.judgement(job).judgement.causes


def test_measures_are_told_as_what_they_measured(bench: Bench, job: int) -> None:
    chain = [
        part.model_copy(update={"volts": v})
        for part, v in zip(TEMPLATES["high_side"], (11.6, 11.6, 0.1, None, 0.0), strict=True)
    ]
    points = [
        StepPoint(at_s=t, volts=v, amps=a) for t, v, a in ((0, 3.9, 0), (1, 3.9, 0), (1.2, 3.8, 5), (11.2, 3.75, 5))
    ]
    for measure in (
        AcirMeasure(group=2, ohm=0.02),
        StepMeasure(log=StepRequest(group=1, points=points)),
        SensorMeasure(sensor=SensorRequest(ohm=11_000, ambient_c=20)),
        SensorMeasure(sensor=SensorRequest(ohm=9_000, b_k=3950, ambient_c=25)),
        PathMeasure(path=PathRequest(string_v=11.6, chain=chain)),
        WiggleMeasure(part="balance plug", seconds=10, dropouts_s=[2.0]),
        WiggleMeasure(part="jack", seconds=10),
        CapacityMeasure(source="tester", ah=2.2, wh=24, seconds=3600, mean_a=2.2, end_v=9.0),
    ):
        bench.add(job, measure)
    found = [e for e in dumped(pieces(bench, job)) if e["kind"] not in ("tool", "history")]
    assert found[0] == {"kind": "acir", "group": 2, "ohm": 0.02}
    # A step of 5 A: 100 mV at once, 150 mV after 10 s.
    steps = {e["after_s"]: e["ohm"] for e in found if e["kind"] == "resistance"}
    assert steps == pytest.approx({0.5: 0.02, 10.0: 0.03}, rel=0.05)
    plain, known = (e for e in found if e["kind"] == "sensor_ohm")
    # What the form begins with is not what is known of the sensor.
    assert "b_k" not in plain
    assert known["b_k"] == 3950
    nodes = {e["node"]: e["volts"] for e in found if e["kind"] == "path_v"}
    assert nodes == {"string": 11.6, "fuse": 11.6, "discharge_switch": 11.6, "charge_switch": 0.1, "terminal": 0.0}
    moved = [(e["what"], e["changes"]) for e in found if e["kind"] == "moving_changes"]
    assert moved == [("group_v", True), ("output", False)]
    assert found[-1] == {"kind": "capacity", "ah": 2.2}


def test_a_group_that_was_charged_since_is_told_as_it_stands_now(bench: Bench, job: int) -> None:
    for group, volts in enumerate((3.9, 3.5, 3.9), start=1):
        read(bench, job, GroupPoint(group=group), volts)
    run = bench.add(job, NewCharge(group=2, target="match")).facts.charges[-1]
    bench.add(job, EndOfCharge(charge=run.id, outcome="finished", volts=3.89))
    told = {e["group"]: e["volts"] for e in dumped(pieces(bench, job)) if e["kind"] == "group_v"}
    assert told == pytest.approx({1: 3.9, 2: 3.89, 3: 3.9}, abs=0.01)


def test_of_two_sayings_of_one_thing_the_later_stands(bench: Bench, job: int) -> None:
    bench.add(job, NewNote.model_validate({"evidence": [{"kind": "tool", "does": "normal"}], "text": "after a night"}))
    said = [e for e in dumped(pieces(bench, job)) if e["kind"] == "tool"]
    assert said == [{"kind": "tool", "does": "normal"}]
    assert datetime.now(UTC) > pieces(bench, job)[-1].at

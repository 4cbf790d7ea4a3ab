"""The demo: the same every time, from physics, and showing what it is there to show."""

from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest

from saldatura.bench import Bench
from saldatura.core.assess import JobView
from saldatura.core.quantities import GroupPoint, Meter, Pack, TapPoint
from saldatura.demo.scenario import build
from saldatura.demo.truth import StandInMeter, String
from saldatura.records import jobs
from saldatura.records.database import Database

NOW = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture(scope="module")
def views(tmp_path_factory: pytest.TempPathFactory) -> dict[str, JobView]:
    db = Database(tmp_path_factory.mktemp("demo") / "demo.sqlite3")
    build(db, NOW)
    bench = Bench(db, now=lambda: NOW)
    return {row["pack_name"]: bench.view(row["id"]) for row in jobs.listed(db.read(), None, "", 50)}


def test_each_pack_shows_what_it_is_there_for(views: dict[str, JobView]) -> None:
    def kind(name: str) -> str:
        probe = views[name].assessment.probe
        return probe.verdict.kind if probe else "none"

    assert kind("Vine shears backpack B") == "imbalanced"
    assert kind("Frost-fan remote battery") == "group_under_floor"
    assert kind("Bottle-washer hand scrubber") == "readings_inconsistent"
    assert kind("Vine shears backpack C") == "cannot_tell"
    assert [w.kind for w in views["Vine shears backpack B"].assessment.waiting] == ["charge"]
    assert [w.kind for w in views["Vine shears backpack D"].assessment.waiting] == ["rest"]
    finished = views["Vine shears backpack A"].assessment
    assert finished.frozen
    assert finished.proof is not None
    assert finished.proof.result == "pass"
    assert finished.compared[0].within
    assert [i.hazard for i in views["Hand scrubber, cellar"].assessment.quarantine] == ["swollen", "crushed"]


def test_the_demo_is_the_same_every_time(views: dict[str, JobView], tmp_path: Path) -> None:
    db = Database(tmp_path / "again.sqlite3")
    build(db, NOW)
    again = Bench(db, now=lambda: NOW)
    for row in jobs.listed(db.read(), None, "", 50):
        there = views[row["pack_name"]]
        assert [r.volts for r in again.facts(row["id"]).readings] == [r.volts for r in there.facts.readings]


def test_the_stand_in_meter_stays_within_what_it_states() -> None:
    stated = Meter(percent=0.5, digits=2, resolution_v=0.01)
    string = String(Pack(chemistry="nca", series=6, rated_ah=4.0), [0.5] * 6)
    errors = []
    for seed in range(40):
        meter = StandInMeter(stated, np.random.default_rng(seed))
        for point, true in ((TapPoint(tap=6), string.between(0, 6)), (GroupPoint(group=2), string.between(1, 2))):
            read = meter.read(string, point)
            assert round(read / 0.01) * 0.01 == pytest.approx(read, abs=1e-9)
            errors.append(abs(read - true) / (true * 0.005 + 0.02))
    assert max(errors) <= 1
    assert max(errors) > 0.3

"""The demo: the same every time, from physics, and showing what it is there to show."""

from datetime import UTC, datetime
from pathlib import Path

import pytest

from saldatura.bench import Bench
from saldatura.core.assess import JobView
from saldatura.core.facts import VirtualPackFact
from saldatura.core.instrument import Probes
from saldatura.core.quantities import span_of
from saldatura.demo.scenario import build
from saldatura.instruments.virtual import VirtualPack
from saldatura.records import jobs, virtual
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
    assert kind("Grafting lamp") == "run_flat"
    assert kind("Label printer") == "overcharged"
    assert [w.kind for w in views["Vine shears backpack B"].assessment.waiting] == ["charge", "charge"]
    assert [w.kind for w in views["Vine shears backpack D"].assessment.waiting] == ["rest"]
    finished = views["Vine shears backpack A"].assessment
    assert finished.frozen
    assert finished.proof is not None
    assert finished.proof.result == "pass"
    assert finished.compared[0].within
    assert [i.danger for i in views["Hand scrubber, cellar"].assessment.quarantine] == ["swollen", "crushed"]


def test_three_packs_come_out_right_by_their_own_evidence(views: dict[str, JobView], tmp_path: Path) -> None:
    db = Database(tmp_path / "judged.sqlite3")
    build(db, NOW)
    bench = Bench(db, now=lambda: NOW)

    def lead(name: str) -> tuple[str, list[int], str]:
        found = bench.judgement(views[name].facts.id).judgement
        first = next((t.test for t in found.next_tests), "")
        return found.causes[0].cause, found.causes[0].at.taps, first

    # A dirty sensor plug, a chip without supply, a broken wire: as the packs were built.
    assert lead("Must pump")[0] == "sensor_circuit"
    assert lead("Cellar tablet")[0] == "board_supply"
    assert lead("Bottle-washer hand scrubber") == ("open_sense_wire", [3], "cell_direct_v")


def test_the_demo_is_the_same_every_time(views: dict[str, JobView], tmp_path: Path) -> None:
    db = Database(tmp_path / "again.sqlite3")
    build(db, NOW)
    again = Bench(db, now=lambda: NOW)
    for row in jobs.listed(db.read(), None, "", 50):
        there = views[row["pack_name"]]
        assert [r.volts for r in again.view(row["id"]).facts.readings] == [r.volts for r in there.facts.readings]


def test_every_pack_on_the_bench_stands_ready_behind_its_stand_in_meter(
    views: dict[str, JobView], tmp_path: Path
) -> None:
    db = Database(tmp_path / "ready.sqlite3")
    build(db, NOW)
    for row in jobs.listed(db.read(), None, "", 50):
        held = db.facts.job(db.read(), row["id"]).of(VirtualPackFact)[-1:]
        assert (not held) == (row["pack_name"] == "Hand scrubber, cellar")
        facts = views[row["pack_name"]].facts
        if not held or not facts.readings:
            continue
        saved = virtual.saved_of(db.read(), held[0])
        assert saved is not None
        pack = VirtualPack(facts.intake.pack, held[0].spec, saved, wall=lambda: 0.0)
        # The last reading that stands on the record is still what the pack shows, within the meter's accuracy.
        last = facts.readings[-1]
        black, red = span_of(last.point, facts.intake.pack.series)
        pack.place(Probes(at="terminals") if last.point.kind == "pack" else Probes(at="taps", black=black, red=red))
        if not pack.running and not facts.charges:
            assert pack.true_volts() == pytest.approx(last.volts, abs=abs(last.volts or 0) * 0.005 + 0.005)
    assert virtual.running_jobs(db.read()) == [views["Vine shears backpack B"].facts.id]

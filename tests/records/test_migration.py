"""Data files and job files of earlier programs: every fact comes along, in the order in which it happened."""

import json
import sqlite3
from datetime import UTC, datetime
from pathlib import Path

import pytest

from saldatura.formats import sheet
from saldatura.job.facts import ChargeEnd, ReadingFact, ReleaseFact, SetFact, VirtualPackFact
from saldatura.job.facts.photo import PhotoFact, PinFact
from saldatura.records import data_file, jobs
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.facts import InstrumentRemoved

EARLIER = Path(__file__).parent / "earlier"
FILES = Path(__file__).parent.parent / "formats"


@pytest.fixture
def bench(tmp_path: Path) -> Bench:
    """A bench on a data file that the program wrote when its schema had number 8."""
    path = tmp_path / "data.sqlite3"
    connection = sqlite3.connect(path)
    for number, sql in data_file.migrations()[:8]:
        connection.executescript(f"{sql}\nPRAGMA user_version = {number};")
    connection.executescript((EARLIER / "data_of_schema_8.sql").read_text(encoding="utf-8"))
    connection.close()
    found = Bench(Database(path), now=lambda: datetime(2026, 3, 4, tzinfo=UTC))
    assert path.with_name(f"data.sqlite3.before-{data_file.migrations()[-1][0]:04d}").exists()
    return found


def test_every_job_of_an_earlier_data_file_stands_where_it_stood(bench: Bench) -> None:
    rows = {row["pack_name"]: row for row in jobs.listed(bench.db.read(), None, "", 10)}
    assert {name: row["standing"] for name, row in rows.items()} == {
        "Signed pack": "done",
        # Screened, released, screened, and held again since.
        "Held pack": "quarantine",
        "Charging pack": "probe",
        # Its release is dated to a day that has not come: it lifts nothing.
        "Forged pack": "quarantine",
    }
    assert [w.kind for w in bench.waiting().waiting] == ["charge"]
    assert all(not bench.view(row["id"]).assessment.troubles for row in rows.values())


def test_facts_of_an_earlier_data_file_keep_what_they_say_and_what_they_refer_to(bench: Bench) -> None:
    signed, charging = bench.facts(1), bench.facts(3)
    assert [r.volts for r in signed.readings] == [4.2, 4.05, 4.05, 3.55, 11.65, 4.05, 4.05, 4.05, 12.15]
    wrong, right = signed.readings[:2]
    assert (right.supersedes, right.reason, right.key) == (wrong.id, "read again", "earlier-0002")
    assert [s.purpose for s in signed.sets] == ["probe", "prove"]
    assert [len(signed.by_set[s.id]) for s in signed.sets] == [5, 4]
    assert signed.of(PinFact)[0].photo == signed.of(PhotoFact)[0].id
    assert signed.charges[0].end is not None
    assert signed.of(ChargeEnd)[0].charge == signed.charges[0].id
    # Numbers tell the order, across all kinds.
    kinds = [type(f) for f in signed.whole if type(f) in (SetFact, ReadingFact)]
    assert kinds == [SetFact, *[ReadingFact] * 5, SetFact, *[ReadingFact] * 4]
    assert charging.of(VirtualPackFact)[0].spec.soc == [0.5, 0.6, 0.7]
    assert charging.simulated
    assert [r.group for r in charging.replaced] == [1]
    assert charging.readings[0].clock_s == 12.5
    assert charging.charging is not None
    assert bench.facts(4).of(ReleaseFact)[0].id < bench.facts(4).safety[0].id
    shop = bench.shop()
    assert shop.meter.resolution_v == 0.001
    assert [i.name for i in shop.instruments] == ["Bench meter"]
    assert shop.instruments[0].last_check is not None
    assert len(shop.of(InstrumentRemoved)) == 1


def test_a_job_signed_by_an_earlier_program_shows_what_was_frozen(bench: Bench) -> None:
    facts, view = bench.facts(1), bench.view(1)
    assert facts.sign_off is not None
    frozen = facts.sign_off.results
    assert view.assessment.probe is not None
    assert view.assessment.probe.verdict.headline == frozen["probe"]["verdict"]["headline"]
    assert view.assessment.probe.reading_ids == [r.id for r in facts.readings[1:5]]
    assert view.assessment.photos[0].photo.id == facts.photos[0].id
    assert [c.says for c in view.assessment.compared] == [c["says"] for c in frozen["compared"]]
    # It passed, and was signed with a remark.
    assert view.facts.sign_off is not None
    assert view.facts.sign_off.passed
    assert sheet.render(view).startswith(b"%PDF")


@pytest.mark.parametrize("name", ["job_file_of_version_2.json", "signed_by_this_program.json"])
def test_a_job_file_comes_in_as_it_was_signed(tmp_path: Path, name: str) -> None:
    document = json.loads((FILES / name).read_text(encoding="utf-8"))
    bench = Bench(Database(tmp_path / "data.sqlite3"), now=lambda: datetime(2026, 3, 4, tzinfo=UTC))
    view = bench.bring_in(document)
    assert view.assessment.standing == "done"
    assert not view.assessment.troubles
    assert view.assessment.proof is not None
    assert view.assessment.proof.result == "pass"
    assert [c.group for c in view.assessment.compared] == [3]
    assert view.assessment.probe is not None
    assert [r.volts for r in view.facts.readings if r.id in view.assessment.probe.reading_ids] == [
        4.05,
        4.05,
        3.55,
        11.65,
    ]
    again = Bench(Database(tmp_path / "again.sqlite3"), now=bench.now).bring_in(
        json.loads(bench.export(view.facts.id).model_dump_json())
    )
    assert again.assessment.proof == view.assessment.proof

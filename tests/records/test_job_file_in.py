"""A job file that was signed elsewhere: it comes in as it was signed, and goes out again the same."""

import json
from datetime import UTC, datetime
from pathlib import Path

import pytest

from saldatura.formats.job_file import JobFileError
from saldatura.records.bench import Bench
from saldatura.records.database import Database

SIGNED = Path(__file__).parent.parent / "formats" / "signed_by_this_program.json"


def test_a_job_file_comes_in_as_it_was_signed(tmp_path: Path) -> None:
    document = json.loads(SIGNED.read_text(encoding="utf-8"))
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


@pytest.mark.parametrize("version", [2, 4, "3", None])
def test_a_job_file_of_another_version_is_refused_in_one_line(tmp_path: Path, version: object) -> None:
    document = {**json.loads(SIGNED.read_text(encoding="utf-8")), "version": version}
    with pytest.raises(JobFileError, match="version"):
        Bench(Database(tmp_path / "data.sqlite3")).bring_in(document)

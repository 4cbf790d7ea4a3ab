"""The kept demo: taken as it is, told anew where it is damaged, and no trouble where nothing can be kept."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from saldatura.demo import kept
from saldatura.job.facts import Intake, Safety
from saldatura.records import jobs
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import job_body

NOW = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture
def built(monkeypatch: pytest.MonkeyPatch) -> list[datetime]:
    """A demo of one pack, told quickly, and when it was told."""
    times: list[datetime] = []

    def build(db: Database, now: datetime) -> None:
        times.append(now)
        body = job_body()
        Bench(db, now=lambda: now).take_in(
            Intake.model_validate(body["intake"]), Safety.model_validate(body["safety"]), True
        )

    monkeypatch.setattr(kept, "build", build)
    return times


def filled(tmp_path: Path, name: str, now: datetime) -> Bench:
    db = Database(tmp_path / name)
    kept.fill(db, tmp_path / "kept", now)
    assert sum(jobs.counts(db.read()).values()) == 1
    return Bench(db, now=lambda: now)


def test_it_is_told_once_moved_on_and_told_anew_where_it_is_damaged(tmp_path: Path, built: list[datetime]) -> None:
    later = NOW + timedelta(days=9, minutes=7)
    first, second = filled(tmp_path, "one", NOW), filled(tmp_path, "two", later)
    assert built == [NOW]
    assert second.facts(1).opened_at - first.facts(1).opened_at == later - NOW
    [file] = (tmp_path / "kept").glob("demo-*.sqlite3")
    file.write_bytes(b"a disk spoilt it" * 400)
    filled(tmp_path, "three", later)
    assert built == [NOW, later]


def test_where_nothing_can_be_kept_it_is_told_for_this_once(tmp_path: Path, built: list[datetime]) -> None:
    (tmp_path / "kept").write_text("no folder")
    filled(tmp_path, "one", NOW)
    assert built == [NOW]

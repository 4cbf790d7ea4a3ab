"""What every test may use."""

import io
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from PIL import Image
from platformdirs import user_cache_path

from saldatura.battery.quantities import Pack
from saldatura.demo.kept import fill
from saldatura.job.facts import Intake, Safety
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.searching import MORE, examples

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parent / "tools"))

settings.register_profile("house", deadline=None, derandomize=MORE <= 1, max_examples=examples(40))
settings.load_profile("house")

SAFE = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes long first among its neighbours: begun last it would keep one hand at work while the others wait."""
    items.sort(key=lambda item: (item.path.parent.relative_to(HERE).parts[:1], item.get_closest_marker("long") is None))


class Clock:
    """A clock that tests set."""

    def __init__(self) -> None:
        self.at = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)

    def __call__(self) -> datetime:
        return self.at

    def later(self, **by: float) -> None:
        self.at += timedelta(**by)


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def db(tmp_path: Path) -> Database:
    return Database(tmp_path / "data.sqlite3")


@pytest.fixture
def bench(db: Database, clock: Clock) -> Bench:
    return Bench(db, now=clock)


# When the demo was told that tests look at.
DEMO_TOLD = datetime(2026, 2, 27, 12, 0, tzinfo=UTC)


def kept_demo(db: Database) -> Path:
    """Fill an empty data file with the demo as it was told at that moment; where it is kept for whoever asks next."""
    folder = user_cache_path("saldatura") / "tests"
    fill(db, folder, DEMO_TOLD)
    [kept] = folder.glob("demo-*.sqlite3")
    return kept


def intake(series: int = 4, **pack: object) -> Intake:
    built = Pack.model_validate({"chemistry": "nmc", "series": series, "parallel": 2, "rated_ah": 4.0, **pack})
    return Intake(customer="Row team Z", pack_name="Test pack", pack=built)


def picture(width: int = 800, height: int = 600, **saved: Any) -> bytes:
    """A JPEG as a camera makes it: its left half red, its right half blue."""
    image = Image.new("RGB", (width, height), "red")
    image.paste((0, 0, 255), (width // 2, 0, width, height))
    out = io.BytesIO()
    image.save(out, "JPEG", **saved)
    return out.getvalue()

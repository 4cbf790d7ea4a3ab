"""The log of a charge of a million rows: written as CSV, brought in again, kept, fetched and thinned for its figure."""

import tempfile
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from bench.measure import Figure, milliseconds
from saldatura.battery.quantities import GroupPoint, Pack
from saldatura.formats import battery_data
from saldatura.job.facts import Intake, NewCharge, NewReading, Safety
from saldatura.records import charge_log
from saldatura.records.bench import Bench
from saldatura.records.database import Database

ROWS = 1_000_000


def figures() -> Iterator[Figure]:
    """Write, read, keep, draw."""
    rng = np.random.default_rng(3)
    time_s = np.arange(ROWS) * 0.02
    volts = 4.2 - 0.6 * np.exp(-time_s / 4000) + rng.normal(0, 0.0005, ROWS)
    rows = np.column_stack([time_s, volts, 2.5 * np.exp(-time_s / 6000), 25 + rng.normal(0, 0.1, ROWS)])
    began = time.perf_counter()
    text = battery_data.written(rows)
    out_s = time.perf_counter() - began
    with tempfile.TemporaryDirectory() as folder:
        db = Database(Path(folder) / "data.sqlite3")
        bench = Bench(db, now=lambda: datetime(2026, 3, 2, 8, 0, tzinfo=UTC))
        nothing = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
        pack = Pack(chemistry="nmc", series=1, parallel=1, rated_ah=3.0)
        job = bench.take_in(Intake(customer="Bench", pack_name="Log", pack=pack), nothing).facts.id
        bench.add(job, NewReading(point=GroupPoint(group=1), volts=3.6, key="bench-log-1"))
        charge = bench.add(job, NewCharge(group=1)).facts.charges[0].id
        began = time.perf_counter()
        read = battery_data.read(text)
        with db.write() as writer:
            charge_log.bring(writer, charge, read)
        in_s = time.perf_counter() - began
        drawn = milliseconds(lambda: battery_data.thinned(charge_log.logged_rows(db.read(), charge), 600), 15)
        kept = battery_data.thinned(charge_log.logged_rows(db.read(), charge), 600)
        db.close()
    yield Figure(f"log of a charge, {ROWS:,} rows: out as CSV", f"{out_s:.1f} s", "≤ 5 s", out_s <= 5)
    yield Figure(f"log of a charge, {ROWS:,} rows: in from CSV and kept", f"{in_s:.1f} s", "≤ 5 s", in_s <= 5)
    yield Figure(
        f"log of a charge, {ROWS:,} rows: fetched and thinned to {len(kept.time_s)} points, slowest of 15",
        f"{max(drawn):.0f} ms",
        "≤ 300 ms",
        max(drawn) <= 300,
    )

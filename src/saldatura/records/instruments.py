"""The shop's instruments with their checks, virtual packs, where each stands, and the log of what was measured."""

import sqlite3
from collections.abc import Iterable
from datetime import datetime
from typing import Annotated

from pydantic import Field

from saldatura.core.address import Address
from saldatura.core.instrument import Kind, Sample, Saved
from saldatura.core.pack.spec import PackSpec
from saldatura.core.quantities import Meter, Value, Words
from saldatura.records.clock import from_text, to_text


class NewInstrument(Value):
    """An instrument of the shop: its kind, what it is called, where it is, and its accuracy as its maker states it."""

    kind: Kind
    name: Annotated[Words, Field(min_length=1, max_length=40)]
    address: Address
    accuracy: Meter = Meter()


class NewCheck(Value):
    """The instrument against a reference, both in its own unit."""

    reference: Annotated[float, Field(ge=-1e6, le=1e6)]
    shown: Annotated[float, Field(ge=-1e6, le=1e6)]


class Check(NewCheck):
    """A check with its time."""

    at: datetime


class InstrumentFact(NewInstrument):
    """An instrument as entered, with its last check."""

    id: int
    at: datetime
    last_check: Check | None


class LoggedSample(Value):
    """One entry of a pack's log."""

    id: int
    at: datetime
    clock_s: float
    volts: float
    amps: float
    celsius: float


def add(db: sqlite3.Connection, new: NewInstrument, at: datetime) -> int:
    """Record an instrument; its id."""
    meter = new.accuracy
    row = db.execute(
        "INSERT INTO instrument (at, kind, name, host, port, percent, digits, resolution_v) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (
            to_text(at),
            new.kind,
            new.name,
            new.address.host,
            new.address.port,
            meter.percent,
            meter.digits,
            meter.resolution_v,
        ),
    )
    assert row.lastrowid is not None
    return row.lastrowid


def remove(db: sqlite3.Connection, instrument_id: int, at: datetime) -> None:
    """Record that an instrument is no longer here."""
    db.execute(
        "INSERT OR IGNORE INTO instrument_removed (instrument_id, at) VALUES (?, ?)", (instrument_id, to_text(at))
    )


def add_check(db: sqlite3.Connection, instrument_id: int, new: NewCheck, at: datetime) -> None:
    """Record a check against a reference."""
    db.execute(
        "INSERT INTO instrument_check (instrument_id, at, reference, shown) VALUES (?, ?, ?, ?)",
        (instrument_id, to_text(at), new.reference, new.shown),
    )


def present(db: sqlite3.Connection) -> list[InstrumentFact]:
    """The instruments that are here, in the order in which they came."""
    rows = db.execute(
        "SELECT instrument.*, c.at AS checked_at, c.reference, c.shown FROM instrument LEFT JOIN instrument_check AS c"
        " ON c.id = (SELECT max(id) FROM instrument_check WHERE instrument_id = instrument.id)"
        " WHERE instrument.id NOT IN (SELECT instrument_id FROM instrument_removed) ORDER BY instrument.id"
    )
    return [_fact(row) for row in rows]


def add_virtual(db: sqlite3.Connection, job_id: int, spec: PackSpec, at: datetime) -> int:
    """Record a job's virtual pack, which replaces the one before; its id."""
    row = db.execute(
        "INSERT INTO virtual_pack (job_id, at, spec) VALUES (?, ?, ?)", (job_id, to_text(at), spec.model_dump_json())
    )
    assert row.lastrowid is not None
    return row.lastrowid


def virtual_of(db: sqlite3.Connection, job_id: int) -> tuple[int, PackSpec, Saved | None] | None:
    """A job's virtual pack with where it stands: (id, spec, saved); None for a pack that is real."""
    row = db.execute(
        "SELECT virtual_pack.id, spec, saved FROM virtual_pack LEFT JOIN virtual_state ON virtual_id = virtual_pack.id"
        " WHERE job_id = ? ORDER BY virtual_pack.id DESC LIMIT 1",
        (job_id,),
    ).fetchone()
    if row is None:
        return None
    saved = Saved.model_validate_json(row["saved"]) if row["saved"] else None
    return int(row["id"]), PackSpec.model_validate_json(row["spec"]), saved


def running_jobs(db: sqlite3.Connection) -> list[int]:
    """Jobs whose virtual pack was being driven when it was last saved."""
    rows = db.execute(
        "SELECT job_id, max(virtual_pack.id) AS id, running FROM virtual_pack JOIN virtual_state"
        " ON virtual_id = virtual_pack.id GROUP BY job_id HAVING running = 1"
    )
    return [row["job_id"] for row in rows]


def save(db: sqlite3.Connection, virtual_id: int, saved: Saved, running: bool, at: datetime) -> None:
    """Note where a virtual pack stands."""
    db.execute(
        "INSERT INTO virtual_state (virtual_id, saved_at, running, saved) VALUES (?, ?, ?, ?) ON CONFLICT (virtual_id)"
        " DO UPDATE SET saved_at = excluded.saved_at, running = excluded.running, saved = excluded.saved",
        (virtual_id, to_text(at), int(running), saved.model_dump_json()),
    )


def add_samples(db: sqlite3.Connection, virtual_id: int, samples: Iterable[Sample], at: datetime) -> None:
    """Append to a virtual pack's log."""
    db.executemany(
        "INSERT INTO live_sample (virtual_id, at, clock_s, volts, amps, celsius) VALUES (?, ?, ?, ?, ?, ?)",
        [(virtual_id, to_text(at), s.clock_s, s.volts, s.amps, s.celsius) for s in samples],
    )


def samples_after(db: sqlite3.Connection, virtual_id: int, after: int, limit: int = 2000) -> list[LoggedSample]:
    """A virtual pack's log from the entry after `after` on."""
    rows = db.execute(
        "SELECT * FROM live_sample WHERE virtual_id = ? AND id > ? ORDER BY id LIMIT ?", (virtual_id, after, limit)
    )
    return [
        LoggedSample(
            id=r["id"],
            at=from_text(r["at"]),
            clock_s=r["clock_s"],
            volts=r["volts"],
            amps=r["amps"],
            celsius=r["celsius"],
        )
        for r in rows
    ]


def _fact(row: sqlite3.Row) -> InstrumentFact:
    check = None
    if row["checked_at"] is not None:
        check = Check(at=from_text(row["checked_at"]), reference=row["reference"], shown=row["shown"])
    return InstrumentFact(
        id=row["id"],
        at=from_text(row["at"]),
        kind=row["kind"],
        name=row["name"],
        address=Address(host=row["host"], port=row["port"]),
        accuracy=Meter(percent=row["percent"], digits=row["digits"], resolution_v=row["resolution_v"]),
        last_check=check,
    )

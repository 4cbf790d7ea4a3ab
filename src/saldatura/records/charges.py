"""Charges of single groups: started with a forecast, ended with a reading."""

import json
import sqlite3
from datetime import datetime

from saldatura.core.job import ChargeEnd, ChargeFact, ChargeOutcome
from saldatura.records.clock import from_text, to_text


def add(db: sqlite3.Connection, job_id: int, run: ChargeFact) -> int:
    """Record a charge that began, with what was forecast, and its end where it has one; its id (`run.id` is ignored)."""
    charge_id = db.execute(
        "INSERT INTO charge (job_id, started_at, group_no, target, start_v, target_v, current_a, cutoff_a, forecast_s,"
        " forecast_low_s, forecast_high_s, forecast_ah, look_again_s, clock_s)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            job_id,
            to_text(run.started_at),
            run.group,
            run.target,
            run.start_v,
            run.target_v,
            run.current_a,
            run.cutoff_a,
            run.forecast_s,
            run.forecast_low_s,
            run.forecast_high_s,
            run.forecast_ah,
            json.dumps(run.look_again_s),
            run.clock_s,
        ),
    ).lastrowid
    assert charge_id is not None
    if run.end is not None:
        end(db, charge_id, run.end.outcome, run.end.at, run.end.clock_s)
    return charge_id


def end(
    db: sqlite3.Connection, charge_id: int, outcome: ChargeOutcome, at: datetime, clock_s: float | None = None
) -> None:
    """Record that a charge ended."""
    db.execute(
        "INSERT INTO charge_end (charge_id, at, outcome, volts, counted_ah, clock_s) VALUES (?, ?, ?, ?, ?, ?)",
        (charge_id, to_text(at), outcome.outcome, outcome.volts, outcome.counted_ah, clock_s),
    )


def of_job(db: sqlite3.Connection, job_id: int) -> list[ChargeFact]:
    """The job's charges in the order in which they began."""
    rows = db.execute(
        "SELECT charge.*, charge_end.at AS end_at, charge_end.clock_s AS end_clock_s, outcome, volts, counted_ah FROM charge"
        " LEFT JOIN charge_end ON charge_end.charge_id = charge.id WHERE job_id = ? ORDER BY charge.id",
        (job_id,),
    )
    return [_fact(row) for row in rows]


def _fact(row: sqlite3.Row) -> ChargeFact:
    ended = None
    if row["end_at"] is not None:
        outcome = ChargeOutcome(outcome=row["outcome"], volts=row["volts"], counted_ah=row["counted_ah"])
        ended = ChargeEnd(at=from_text(row["end_at"]), outcome=outcome, clock_s=row["end_clock_s"])
    return ChargeFact(
        id=row["id"],
        started_at=from_text(row["started_at"]),
        group=row["group_no"],
        target=row["target"],
        start_v=row["start_v"],
        target_v=row["target_v"],
        current_a=row["current_a"],
        cutoff_a=row["cutoff_a"],
        forecast_s=row["forecast_s"],
        forecast_low_s=row["forecast_low_s"],
        forecast_high_s=row["forecast_high_s"],
        forecast_ah=row["forecast_ah"],
        look_again_s=json.loads(row["look_again_s"]),
        end=ended,
        clock_s=row["clock_s"],
    )

"""Logs of chargers, testers and supplies over HTTP: looked at before anything of one is kept, whatever it is kept for."""

import codecs
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Query
from pydantic import BaseModel, Field

from saldatura.api.depends import TheBench, whole_body
from saldatura.api.problems import INVALID
from saldatura.battery.errors import Impossible
from saldatura.battery.logs.columns import ROLES, LogRole, guessed
from saldatura.battery.logs.layout import layout_of
from saldatura.battery.logs.read import SAID, Log, log_of
from saldatura.battery.measures.capacity import Capacity, capacity_of
from saldatura.formats.battery_data import ChargeLog, thinned

router = APIRouter(prefix="/api/logs", tags=["logs"])

# Which column is what: "time_s:0,volts:2,amps:3".
ColumnsAsked = Annotated[str | None, Query(max_length=120)]
SHOWN_ROWS, SHOWN_POINTS = 4, 240


class LogLook(BaseModel):
    """What a log holds: its header and first rows, which column is taken for what (`remembered` from a file like it), by which factor its values
    are brought to s, V and A; how long, between which volts and amps; `notes` of what was taken for what; `problem`: why it cannot be read
    yet. `drawn`: the log as a figure shows it; `capacity` where a rated one was told.
    """

    header: list[str]
    first: list[list[str]]
    rows: int
    decimal_comma: bool
    columns: dict[LogRole, int]
    remembered: bool
    factors: dict[LogRole, float] = {}
    notes: list[str] = []
    problem: str | None = None
    seconds: float | None = None
    volts: list[float] = []
    amps: list[float] = []
    hottest_c: float | None = None
    drawn: ChargeLog | None = None
    capacity: Capacity | None = None
    roles: dict[LogRole, str] = Field(default_factory=lambda: dict(SAID))


@router.post(
    "/preview",
    responses=INVALID,
    openapi_extra={"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def look(
    bench: TheBench,
    raw: Annotated[bytes, Depends(whole_body)],
    columns: ColumnsAsked = None,
    rated_ah: Annotated[float | None, Query(gt=0.001, le=10_000)] = None,
    low_v: Annotated[float | None, Query(gt=0, le=1000)] = None,
    remember: bool = False,
) -> LogLook:
    """Look at a log. `columns`: which is what, as somebody chose; `remember` it for the next file with this header."""
    layout = layout_of(text_of(raw))
    asked = chosen(columns)
    held = bench.cells.drawer().columns.get(layout.signature)
    known = None if held is None else {role: at for role, at in held.columns.items() if role in ROLES}
    used = asked if asked is not None else known if known else guessed(layout)[0]
    first = [[cell[:40] for cell in layout.cells(line)] for line in layout.lines[:SHOWN_ROWS]]
    looked = LogLook(
        header=layout.header, first=first, rows=len(layout.lines), decimal_comma=layout.comma, columns=used,
        remembered=asked is None and bool(known),
    )  # fmt: skip
    try:
        log = log_of(layout, used if asked is not None or known else None)
    except Impossible as error:
        return looked.model_copy(update={"problem": error.message})
    if remember:
        bench.cells.remember(layout.signature, log.columns)
    return _with_values(looked, log, rated_ah, low_v)


def _with_values(looked: LogLook, log: Log, rated_ah: float | None, low_v: float | None) -> LogLook:
    rows = log.rows
    warm = rows[:, 3][~np.isnan(rows[:, 3])]
    counted, problem = None, None
    if rated_ah is not None:
        try:
            counted = capacity_of(log, rated_ah, low_v)
        except Impossible as error:
            problem = error.message
    return looked.model_copy(
        update={
            "rows": len(rows),
            "factors": log.factors,
            "notes": log.notes,
            "problem": problem,
            "seconds": float(rows[-1, 0]),
            "volts": [float(rows[:, 1].min()), float(rows[:, 1].max())],
            "amps": [float(rows[:, 2].min()), float(rows[:, 2].max())],
            "hottest_c": float(warm.max()) if len(warm) else None,
            "drawn": thinned(rows, SHOWN_POINTS),
            "capacity": counted,
        }
    )


def text_of(raw: bytes) -> str:
    """A file's bytes as text, in whatever of the usual ways it was written. Raises Impossible."""
    if raw.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)) and len(raw) > 2:
        ways = ["utf-16"]
    else:
        # A byte of an older table of letters, as in a degree sign, is no reason to refuse the figures.
        ways = ["utf-8-sig", "cp1252"]
    for way in ways:
        try:
            return raw.decode(way)
        except UnicodeDecodeError:
            continue
    raise Impossible("text", "not_text", "is no text; save it as CSV in UTF-8")


def chosen(columns: str | None) -> dict[LogRole, int] | None:
    """Which column is what, as it was asked. Raises Impossible."""
    if not columns:
        return None
    found: dict[LogRole, int] = {}
    for part in columns.split(","):
        role, _, at = part.partition(":")
        if role not in ROLES or not at.isdecimal() or len(at) > 3:
            raise Impossible("columns", "not_a_column", f"“{part[:30]}” is no column; write time_s:0,volts:1,amps:2")
        found[role] = int(at)
    return found

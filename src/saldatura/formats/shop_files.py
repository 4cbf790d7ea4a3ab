"""The whole shop as open files in one archive: every fact as JSON lines, tables as CSV, photos, and a dictionary of all of it."""

import csv
import io
import json
import logging
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import IO, Any

from pydantic import BaseModel

from saldatura.formats.plain import cell, in_json
from saldatura.job.facts import ChargeBegun, ChargeEnd, JobFacts, ReadingFact, SetFact
from saldatura.job.registry import KINDS, written
from saldatura.job.standing import standing_of
from saldatura.ledger.fact import Fact
from saldatura.shop.cells.drawer import CellNow
from saldatura.shop.facts import ShopFacts

log = logging.getLogger("saldatura")

JsonLine = dict[str, Any]


@dataclass(frozen=True)
class Column:
    """A column of a table: its name, its unit or kind, and what it holds."""

    name: str
    unit: str
    says: str


JOBS = (
    Column("job", "number", "the job's number in this shop"),
    Column("uid", "text", "the same job's name everywhere"),
    Column("opened_at", "ISO 8601", "when it was taken in"),
    Column("standing", "text", "stage, or done, scrap, quarantine"),
    Column("customer", "text", "whose pack it is"),
    Column("pack_name", "text", "what it is called"),
    Column("serial", "text", "its serial number"),
    Column("chemistry", "text", "key of its chemistry"),
    Column("series", "count", "groups in series, between its terminals"),
    Column("parallel", "count", "cells in each group"),
    Column("strings", "count", "strings of so many groups side by side"),
    Column("rated_ah", "Ah", "capacity of the pack by its label"),
    Column("signed_at", "ISO 8601", "when it was signed last; empty: it is open"),
    Column("outcome", "text", "handed_back or scrap"),
    Column("minutes", "min", "minutes at the bench as told at sign-off"),
    Column("simulated", "0 or 1", "1: a virtual pack; nothing of it was measured on a real one"),
)
READINGS = (
    Column("job", "number", "of which job"),
    Column("reading", "number", "the reading's number in the order of record"),
    Column("at", "ISO 8601", "when it was taken"),
    Column("set", "number", "readings of one moment and one meter share it"),
    Column("purpose", "text", "probe, prove or load"),
    Column("from_tap", "number", "black lead"),
    Column("to_tap", "number", "red lead"),
    Column("volts", "V", "what was read; empty: the point could not be reached"),
    Column("place", "text", "pin, tab or terminal"),
    Column("source", "text", "typed, or the instrument"),
    Column("superseded", "0 or 1", "1: a later reading corrects it"),
)
CHARGES = (
    Column("job", "number", "of which job"),
    Column("charge", "number", "the charge's number in the order of record"),
    Column("began_at", "ISO 8601", "when it was begun"),
    Column("group", "number", "which group, from the negative end"),
    Column("target_v", "V", "voltage it was charged to"),
    Column("current_a", "A", "current it was set to"),
    Column("forecast_s", "s", "how long it was to take"),
    Column("ended_at", "ISO 8601", "when it ended; empty: it runs"),
    Column("outcome", "text", "how it ended"),
)
CELLS = (
    Column("cell", "text", "the cell's name"),
    Column("type", "text", "its type"),
    Column("origin", "text", "new, reclaimed or harvested"),
    Column("standing", "text", "where it is"),
    Column("job", "number", "the job it is in or set aside for"),
    Column("group", "number", "the group it is in"),
    Column("capacity_ah", "Ah", "capacity measured last"),
    Column("dc_ohm", "ohm", "10 s resistance measured last"),
    Column("rest_v", "V", "rest voltage read last"),
)
TABLES: Mapping[str, tuple[Column, ...]] = {
    "jobs.csv": JOBS,
    "readings.csv": READINGS,
    "charges.csv": CHARGES,
    "cells.csv": CELLS,
}
READ_ME = (
    "Everything recorded in this shop, in open formats.\n\n"
    "facts.jsonl    one fact a line in UTF-8: job (null: of the shop), uid, kind, id (order of record), at, clock_s, body\n"
    "cells.jsonl    the same of cells: cell (its name), kind, id, at, body\n"
    "patterns.jsonl the same of patterns: pattern (its number), kind, id, at, body\n"
    "*.csv          tables for spreadsheets; UTF-8, comma, point, SI units\n"
    "photos/        JPEG files, each by the SHA-256 that its fact names it with\n"
    "dictionary.csv what every column, and every field of every kind of fact, holds\n\n"
    "Facts were only ever added: a correction is a later fact that names the earlier one; what was taken back is named by a\n"
    "fact of kind taken_back. It holds customers' names; handle it as your law on personal data asks.\n"
)


def write(
    out: IO[bytes],
    jobs: Iterable[tuple[int, JobFacts | None]],
    shop: ShopFacts,
    cells: Iterable[CellNow],
    cell_facts: Iterable[JsonLine],
    pattern_facts: Iterable[JsonLine],
    photo: Callable[[str], bytes | None],
) -> None:
    """The archive into `out`, job by job, so that no shop is too large for memory. A photo that is
    missing is named in missing.txt, a job that cannot be read in unread.txt.
    """
    rows: dict[str, io.StringIO] = {name: io.StringIO() for name in TABLES}
    tables = {name: csv.writer(rows[name]) for name in TABLES}
    for name, columns in TABLES.items():
        tables[name].writerow([c.name for c in columns])
    named: dict[str, None] = {}
    unread: list[str] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
        archive.writestr("READ-ME.txt", READ_ME)
        archive.writestr("dictionary.csv", _dictionary())
        with archive.open("facts.jsonl", "w", force_zip64=True) as lines:
            for fact in shop.whole:
                lines.write(_line({"job": None, "uid": None, **written(fact)}))
            for number, facts in jobs:
                if facts is None:
                    unread.append(f"job {number}")
                    continue
                for fact in facts.whole:
                    lines.write(_line({"job": facts.id, "uid": facts.uid, **written(fact)}))
                named.update(dict.fromkeys(p.sha256 for p in facts.photos))
                try:
                    rows_of = [
                        ("jobs.csv", [_job(facts)]),
                        ("readings.csv", [*_readings(facts)]),
                        ("charges.csv", [*_charges(facts)]),
                    ]
                except Exception:  # its facts are there as they are; what they come to cannot be told
                    log.exception("the tables of job %d cannot be written", number)
                    unread.append(f"job {number}: its facts are in facts.jsonl, and it is in no table")
                    continue
                for name, told in rows_of:
                    tables[name].writerows([cell(value) for value in row] for row in told)
        with archive.open("cells.jsonl", "w", force_zip64=True) as lines:
            for line in cell_facts:
                lines.write(_line(line))
        with archive.open("patterns.jsonl", "w", force_zip64=True) as lines:
            for line in pattern_facts:
                lines.write(_line(line))
                named.update(dict.fromkeys(_photos_of(line)))
        tables["cells.csv"].writerows(map(cell, _cell(one)) for one in cells)
        for name, text in rows.items():
            archive.writestr(name, text.getvalue().encode())
        if unread:
            archive.writestr("unread.txt", "These cannot be read by this program:\n" + "\n".join(unread))
        missing = []
        for sha256 in named:
            jpeg = photo(sha256)
            if jpeg is None:
                missing.append(sha256)
            else:
                archive.writestr(zipfile.ZipInfo(f"photos/{sha256}.jpg"), jpeg)
        if missing:
            archive.writestr(
                "missing.txt", "These photos are not in the shop's folder any more:\n" + "\n".join(missing)
            )


def _line(value: JsonLine) -> bytes:
    return in_json(json.dumps(value, ensure_ascii=False, separators=(",", ":"))).encode() + b"\n"


def _job(facts: JobFacts) -> list[object]:
    pack, signed = facts.intake.pack, facts.sign_off
    return [
        facts.id, facts.uid, facts.opened_at.isoformat(), standing_of(facts).standing, facts.intake.customer, facts.intake.pack_name, facts.intake.serial,
        pack.chemistry, pack.in_string, pack.parallel, pack.strings, pack.whole_ah, signed.at.isoformat() if signed else None,
        signed.outcome if signed else None, signed.minutes if signed else None, int(facts.simulated),
    ]  # fmt: skip


def _readings(facts: JobFacts) -> Iterator[list[object]]:
    # As it was recorded: in the numbers of its time.
    purposes, pack = {s.id: s.purpose for s in facts.recorded(SetFact)}, facts.as_told.pack
    corrected = {r.supersedes for r in facts.recorded(ReadingFact)}
    for r in facts.recorded(ReadingFact):
        low, high = pack.span(r.point)
        yield [
            facts.id, r.id, r.at.isoformat(), r.set_id, purposes.get(r.set_id), low, high, r.volts, r.place, r.source,
            int(r.id in corrected),
        ]  # fmt: skip


def _charges(facts: JobFacts) -> Iterator[list[object]]:
    ends = {end.charge: end for end in facts.recorded(ChargeEnd)}
    for run in facts.recorded(ChargeBegun):
        end = ends.get(run.id)
        yield [
            facts.id, run.id, run.at.isoformat(), run.group, run.target_v, run.current_a, run.forecast_s,
            end.at.isoformat() if end else None, end.outcome if end else None,
        ]  # fmt: skip


def _cell(cell: CellNow) -> list[object]:
    return [
        cell.name, cell.took.type, cell.took.origin, cell.standing, cell.job, cell.group, cell.last("capacity_ah"), cell.last("dc_ohm"),
        cell.last("rest_v"),
    ]  # fmt: skip


def _photos_of(line: JsonLine) -> list[str]:
    """The photos that a revision of a pattern names."""
    sheet = line["body"].get("sheet")
    photos = sheet.get("photos", []) if isinstance(sheet, dict) else []
    return [str(photo["sha256"]) for photo in photos if isinstance(photo, dict) and "sha256" in photo]


# Facts of these stand in a file of their own.
FILES = {"drawer": "cells.jsonl", "pattern": "patterns.jsonl"}


def _dictionary() -> str:
    text = io.StringIO()
    table = csv.writer(text)
    table.writerow(["file", "of", "name", "unit or type", "holds"])
    for name, columns in TABLES.items():
        for column in columns:
            table.writerow([name, "", column.name, column.unit, column.says])
    kinds: list[tuple[str, str, type[BaseModel]]] = [
        (FILES.get(kind.subject, "facts.jsonl"), kind.name, kind.fact) for kind in KINDS
    ]
    for file, name, model in kinds:
        for field, described in model.model_json_schema()["properties"].items():
            if field not in Fact.model_fields:
                table.writerow([file, name, field, _type(described), " ".join((model.__doc__ or "").split())])
    return text.getvalue()


def _type(described: Mapping[str, Any]) -> str:
    """The type of a field by its schema, in a word or two, with its limits."""
    if "$ref" in described:
        return str(described["$ref"]).rsplit("/", 1)[-1]
    if "anyOf" in described:
        return " or ".join(_type(one) for one in described["anyOf"])
    if "enum" in described:
        return " | ".join(map(str, described["enum"]))
    if "const" in described:
        return str(described["const"])
    kind = str(described.get("type", "any"))
    if kind == "array":
        return f"list of {_type(described.get('items', {}))}"
    low, high = described.get("minimum", described.get("exclusiveMinimum")), described.get("maximum")
    return kind + (f" {low} to {high}" if low is not None and high is not None else "")

"""Rows as they are read back from a file that a disk may have damaged: what can be read is, and the rest is told."""

import json
import logging
import sqlite3
from typing import Any

from saldatura.job.registry import BY_NAME
from saldatura.ledger.fact import Fact
from saldatura.records.clock import from_text
from saldatura.records.hold import DataFileError

log = logging.getLogger("saldatura")


class Damaged(DataFileError):
    """A row that is no more what was written there."""

    def __init__(self, what: str) -> None:
        super().__init__(
            "row_damaged",
            f"the data file is damaged: {what} cannot be read. Restore a backup; `saldatura check` tells what is left of this one, and with "
            "--salvage writes it out",
        )


def rows(db: sqlite3.Connection, sql: str, values: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
    """The rows; bytes that are no text any more stand in them as `\\xNN`, so that they keep nobody from the rest."""
    try:
        return db.execute(sql, values).fetchall()
    except sqlite3.OperationalError as error:
        if "decode" not in str(error):
            raise
    db.text_factory = lambda raw: raw.decode("utf-8", "backslashreplace")
    try:
        return db.execute(sql, values).fetchall()
    finally:
        db.text_factory = str


def from_json(text: str, what: str) -> Any:
    """What a text of ours says. Raises Damaged, which names it as `what`."""
    try:
        return json.loads(text)
    except ValueError as error:
        raise Damaged(what) from error


def by_kind(row: sqlite3.Row, what: str) -> Fact | None:
    """A fact by its kind, number, time and body; None for one that this program cannot read, which is logged as one `of` what it is."""
    try:
        return BY_NAME[row["kind"]].fact.model_validate(
            {**json.loads(row["body"]), "id": row["id"], "at": from_text(row["at"])}
        )
    except (ValueError, TypeError, KeyError):
        log.exception("fact %d %s cannot be read", row["id"], what)
        return None


def as_it_stands(text: str) -> dict[str, Any]:
    """The body of a fact that cannot be read: what there is of it."""
    try:
        body = json.loads(text)
    except (ValueError, TypeError):
        body = None
    return body if isinstance(body, dict) else {"unread": str(text)}

"""The drawer on disk: cells by name, and what is told of them; kept at hand as it stands."""

import logging
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from typing import Any

from saldatura.battery.errors import Impossible, Refused
from saldatura.job.registry import BASE, BY_FACT
from saldatura.ledger.fact import Fact
from saldatura.records.clock import to_text
from saldatura.records.stored import as_it_stands, by_kind, rows
from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.types import CellMoved, CellTook

log = logging.getLogger("saldatura")


class CellShelf:
    """The drawer as it was last read; what was added since is read on."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._held = Drawer()

    def drawer(self, db: sqlite3.Connection) -> Drawer:
        """Every cell as it stands."""
        with self._lock:
            held = self._held
        now = held.with_facts(_since(db, held.last_id))
        # What a transaction has written may yet be undone.
        if now.last_id != held.last_id and not db.in_transaction:
            with self._lock:
                if now.last_id > self._held.last_id:
                    self._held = now
        return now


def lines(db: sqlite3.Connection) -> Iterator[dict[str, Any]]:
    """Every fact of the drawer as it is written in an open file, in the order of record."""
    found = rows(
        db,
        "SELECT cell.name, cell_fact.id, kind, at, body FROM cell_fact LEFT JOIN cell ON cell.id = cell_fact.cell_id ORDER BY cell_fact.id",
    )
    for row in found:
        yield {
            "cell": row["name"],
            "kind": row["kind"],
            "id": row["id"],
            "at": row["at"],
            "body": as_it_stands(row["body"]),
        }


_EVERY = "SELECT cell_fact.*, cell.name FROM cell_fact LEFT JOIN cell ON cell.id = cell_id"


def _since(db: sqlite3.Connection, last_id: int) -> list[tuple[int | None, str | None, Fact]]:
    found = rows(
        db,
        f"{_EVERY} WHERE cell_fact.id > ? ORDER BY cell_fact.id",
        (last_id,),
    )
    return [(row["cell_id"], row["name"], fact) for row in found if (fact := _fact(row)) is not None]


def _fact(row: sqlite3.Row) -> Fact | None:
    if row["cell_id"] is not None and row["name"] is None:
        log.error("fact %d of a cell that is gone", row["id"])
        return None
    return by_kind(row, "of a cell")


def history(db: sqlite3.Connection, cell_id: int) -> list[Fact]:
    """Every fact of a cell, in the order of record."""
    found = rows(db, f"{_EVERY} WHERE cell_id = ? ORDER BY cell_fact.id", (cell_id,))
    return [fact for row in found if (fact := _fact(row)) is not None]


def unread_of(db: sqlite3.Connection) -> list[str]:
    """Facts of cells that this program cannot read, in words."""
    return [f"fact {row['id']} of a cell" for row in rows(db, f"{_EVERY} ORDER BY cell_fact.id") if _fact(row) is None]


def enter(db: sqlite3.Connection, name: str, took: CellTook) -> int:
    """A cell that came in. Raises Impossible for a name that is there."""
    try:
        cell_id = db.execute(
            "INSERT INTO cell (name, folded) VALUES (?, ?)", (name.strip(), name.strip().casefold())
        ).lastrowid
    except sqlite3.IntegrityError:
        raise Impossible(
            "name", "name_taken", f"there is a cell {name.strip()} already; names tell cells apart for good"
        ) from None
    assert cell_id is not None
    add(db, took, cell_id)
    return cell_id


def add(db: sqlite3.Connection, fact: Fact, cell_id: int | None = None, previous: int | None = None) -> int:
    """Record a fact of a cell, or of the drawer."""
    number = db.execute(
        "INSERT INTO cell_fact (cell_id, kind, at, previous, body) VALUES (?, ?, ?, ?, ?)",
        (cell_id, BY_FACT[type(fact)].name, to_text(fact.at), previous, _body(fact)),
    ).lastrowid
    assert number is not None
    return number


def move(db: sqlite3.Connection, cells: Sequence[CellNow], moved: CellMoved) -> None:
    """Cells to another place, each from where it was seen. Raises Refused for one that somebody else moved meanwhile."""
    for cell in cells:
        try:
            add(db, moved, cell.id, cell.place.id)
        except sqlite3.IntegrityError:
            raise Refused(
                "place", "moved_meanwhile", f"cell {cell.name} has been moved meanwhile; look where it is now"
            ) from None


def _body(fact: Fact) -> str:
    return fact.model_dump_json(exclude=set(BASE), exclude_none=True)

"""What the program switched on or wants off, appended; it outlives the program that switched."""

import sqlite3
from datetime import datetime
from typing import Literal

from pydantic import TypeAdapter

from saldatura.battery.quantities import Value
from saldatura.records.clock import from_text, to_text
from saldatura.shop.address import Place

_PLACE: TypeAdapter[Place] = TypeAdapter(Place)

Drives = Literal["output", "load"]
State = Literal["on", "off_wanted", "off"]


class Switch(Value):
    """An instrument that the program switches on a job's pack, by its address; a supply or charger for a charge of one group."""

    address: Place
    name: str
    drives: Drives
    job_id: int
    charge_id: int | None = None
    group: int | None = None


class Switched(Value):
    """A switch that is not known to be off, by its last line: on, or told off without having confirmed it."""

    id: int
    since: datetime
    switch: Switch
    state: State


def note(db: sqlite3.Connection, switch: Switch, state: State, at: datetime, by: str = "") -> int:
    """Append what became of a switch; the number of the line."""
    number = db.execute(
        "INSERT INTO switched (at, place, address, name, drives, job_id, charge_id, charged_group, state, by)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            to_text(at), switch.address.key, switch.address.model_dump_json(), switch.name, switch.drives, switch.job_id, switch.charge_id,
            switch.group, state, by,
        ),
    ).lastrowid  # fmt: skip
    assert number is not None
    return number


def standing(db: sqlite3.Connection) -> list[Switched]:
    """Every instrument that is not known to be off."""
    found = db.execute(
        "SELECT * FROM switched WHERE id IN (SELECT max(id) FROM switched GROUP BY place) AND state <> 'off' ORDER BY id"
    )
    return [
        Switched(
            id=row["id"],
            since=from_text(row["at"]),
            switch=Switch(
                address=_PLACE.validate_json(row["address"]), name=row["name"], drives=row["drives"],
                job_id=row["job_id"], charge_id=row["charge_id"], group=row["charged_group"],
            ),
            state=row["state"],
        )
        for row in found
    ]  # fmt: skip

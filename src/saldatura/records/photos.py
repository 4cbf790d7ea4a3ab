"""Photos: the JPEG files beside the data file, each named by its SHA-256, and the pins on them."""

import hashlib
import json
import os
import shutil
import sqlite3
from datetime import datetime
from pathlib import Path

from pydantic import TypeAdapter

from saldatura.core.photo import NewPin, PhotoFact, PinFact, Place
from saldatura.records.clock import from_text, to_text

_PLACE: TypeAdapter[Place] = TypeAdapter(Place)


class PhotoFiles:
    """The folder of photos beside a data file; a file in it never changes, and two alike are one."""

    def __init__(self, data_file: Path) -> None:
        self.folder = data_file.with_name(data_file.name + ".photos")

    def keep(self, jpeg: bytes) -> str:
        """Store a photo durably; its SHA-256."""
        sha256 = hashlib.sha256(jpeg).hexdigest()
        self.folder.mkdir(parents=True, exist_ok=True)
        partial = self.folder / f"{sha256}.{os.getpid()}.part"
        with partial.open("wb") as file:
            file.write(jpeg)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(self.path(sha256))
        _sync(self.folder)
        return sha256

    def path(self, sha256: str) -> Path:
        """Where a photo lies, whether or not it is there."""
        return self.folder / f"{sha256}.jpg"

    def copy_to(self, other: "PhotoFiles") -> None:
        """Copy every photo that the other folder lacks."""
        for source in self.folder.glob("*.jpg"):
            target = other.folder / source.name
            if not target.exists():
                other.folder.mkdir(parents=True, exist_ok=True)
                partial = target.with_suffix(".part")
                shutil.copyfile(source, partial)
                partial.replace(target)


def _sync(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def add_photo(db: sqlite3.Connection, job_id: int, photo: PhotoFact) -> int:
    """Record a photo that lies in the folder; its number. The one in `photo` is not used."""
    photo_id = db.execute(
        "INSERT INTO photo (job_id, at, sha256, width, height, caption) VALUES (?, ?, ?, ?, ?, ?)",
        (job_id, to_text(photo.at), photo.sha256, photo.width, photo.height, photo.caption),
    ).lastrowid
    assert photo_id is not None
    return photo_id


def add_pin(db: sqlite3.Connection, new: NewPin, at: datetime) -> None:
    """Record a pin put, moved or taken off."""
    db.execute(
        "INSERT INTO photo_pin (photo_id, at, place, x, y) VALUES (?, ?, ?, ?, ?)",
        (new.photo, to_text(at), json.dumps(new.place.model_dump()), new.x, new.y),
    )


def of_job(db: sqlite3.Connection, job_id: int) -> list[PhotoFact]:
    """A job's photos in the order in which they were added."""
    rows = db.execute("SELECT * FROM photo WHERE job_id = ? ORDER BY id", (job_id,))
    return [
        PhotoFact(
            id=r["id"],
            at=from_text(r["at"]),
            sha256=r["sha256"],
            width=r["width"],
            height=r["height"],
            caption=r["caption"],
        )
        for r in rows
    ]


def pins_of_job(db: sqlite3.Connection, job_id: int) -> list[PinFact]:
    """A job's pins in the order in which they were put."""
    rows = db.execute(
        "SELECT photo_pin.* FROM photo_pin JOIN photo ON photo.id = photo_id WHERE job_id = ? ORDER BY photo_pin.id",
        (job_id,),
    )
    return [
        PinFact(at=from_text(r["at"]), photo=r["photo_id"], place=_PLACE.validate_json(r["place"]), x=r["x"], y=r["y"])
        for r in rows
    ]

"""Photos: the JPEG files beside the data file, each named by its SHA-256."""

import hashlib
import os
import shutil
import sqlite3
import threading
from pathlib import Path


class PhotoFiles:
    """The folder of photos beside a data file; a file in it never changes, and two alike are one."""

    def __init__(self, data_file: Path) -> None:
        self.folder = data_file.with_name(data_file.name + ".photos")

    def keep(self, jpeg: bytes) -> str:
        """Store a photo durably; its SHA-256."""
        sha256 = hashlib.sha256(jpeg).hexdigest()
        self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        # Two that keep the same picture at once write apart.
        partial = self.folder / f"{sha256}.{os.getpid()}.{threading.get_ident()}.part"
        try:
            with open(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
                file.write(jpeg)
                file.flush()
                os.fsync(file.fileno())
            partial.replace(self.path(sha256))
        except BaseException:
            # A full disk keeps no half of it.
            partial.unlink(missing_ok=True)
            raise
        sync_folder(self.folder)
        return sha256

    def path(self, sha256: str) -> Path:
        """Where a photo lies, whether or not it is there."""
        return self.folder / f"{sha256}.jpg"

    def read(self, sha256: str) -> bytes | None:
        """A photo's file; None where it is not there."""
        try:
            return self.path(sha256).read_bytes()
        except OSError:
            return None

    def copy_to(self, other: "PhotoFiles") -> None:
        """Copy every photo that the other folder lacks."""
        for source in self.folder.glob("*.jpg"):
            target = other.folder / source.name
            if not target.exists():
                other.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
                partial = target.with_suffix(".part")
                shutil.copyfile(source, partial)
                partial.replace(target)


def sync_folder(folder: Path) -> None:
    """Make what was renamed in a folder last."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def photos_of(db: sqlite3.Connection, files: PhotoFiles) -> tuple[int, int]:
    """How many photos a data file names, and how many of them are not in the folder beside it."""
    named = {
        row[0]
        for row in db.execute(
            "SELECT json_extract(body, '$.sha256') FROM fact WHERE kind = 'photo' AND json_valid(body)"
            " UNION SELECT value FROM pattern_now, json_each(photos)"
        )
        if isinstance(row[0], str)
    }
    return len(named), sum(not files.path(sha256).exists() for sha256 in named)


def photos_say(named: int, missing: int, folder: str) -> str:
    """The same in a line; empty where there are none."""
    if not named:
        return ""
    if not missing:
        return f"Its {named} photo{'s are' if named > 1 else ' is'} in {folder}, which belongs to it: keep the two together."
    return f"{missing} of its {named} photo{'s are' if named > 1 else ' is'} not in {folder}: copy that folder beside it, or they are lost."

"""Who has a data file open: shared while it is open, alone while it is brought up to date."""

import fcntl
import os
import time
from pathlib import Path

WAITS_S = 10.0


# Only the one who runs it reads customers' names.
OWN_FILE = 0o600


class DataFileError(Exception):
    """The data file cannot be used: `code` says why, the message what to do."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class InUse(DataFileError):
    """Another Saldatura has the data file open."""


class Hold:
    """A hold on a data file: shared while it is open, whole while it is brought up to date or replaced; `serving`: one at a time."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._use = _lock_file(path, "lock")
        self._serve: int | None = None
        # The file itself, whatever name it goes by: another name of it has other locks and another log beside it.
        self._itself: int | None = None
        self._by_another_name()

    def _by_another_name(self) -> None:
        """Raises InUse where the file is served under another name of its (a hard link): two logs would each lose what the other has."""
        if not self.path.exists():
            return
        handle = os.open(self.path, os.O_RDONLY | os.O_CLOEXEC)
        try:
            free = _flock(handle, fcntl.LOCK_SH)
        finally:
            os.close(handle)
        if free or self._served_here():
            return
        self.release()
        raise InUse(
            "served_under_another_name",
            f"{self.path.name} is another name of a data file that is served already; use that one, or stop it first",
        )

    def _served_here(self) -> bool:
        serving = _lock_file(self.path, "serving")
        try:
            return not _flock(serving, fcntl.LOCK_EX)
        finally:
            os.close(serving)

    def itself(self) -> None:
        """Hold the file itself while it is served, by whatever name. Raises InUse. SQLite's own locks are of another kind."""
        self._itself = os.open(self.path, os.O_RDONLY | os.O_CLOEXEC)
        if not _flock(self._itself, fcntl.LOCK_EX):
            raise InUse(
                "served_under_another_name",
                f"{self.path.name} is another name of a data file that is served already; use that one, or stop it first",
            )

    def whole(self) -> bool:
        """Try to have it alone; whether it is so."""
        return _flock(self._use, fcntl.LOCK_EX)

    def shared(self) -> None:
        """Share it with others who have it open; waits while somebody has it alone. Raises InUse."""
        until = time.monotonic() + WAITS_S
        while not _flock(self._use, fcntl.LOCK_SH):
            if time.monotonic() > until:
                raise InUse(
                    "being_changed",
                    f"{self.path.name} is being migrated or restored by another Saldatura; start again when that is done",
                )
            time.sleep(0.05)

    def serve(self) -> None:
        """Be the one that serves it. Raises InUse."""
        self._serve = _lock_file(self.path, "serving")
        if not _flock(self._serve, fcntl.LOCK_EX):
            by = os.pread(self._serve, 20, 0).decode("ascii", "replace").strip("\0 \n")
            raise InUse(
                "served_already",
                f"{self.path.name} is served already{f' by process {by}' if by else ''}; use that one, or stop it first",
            )
        os.ftruncate(self._serve, 0)
        os.pwrite(self._serve, str(os.getpid()).encode(), 0)

    def release(self) -> None:
        """Let go of it."""
        for handle in (self._serve, self._use, self._itself):
            if handle is not None and handle >= 0:
                os.close(handle)
        self._serve, self._use, self._itself = None, -1, None


def _lock_file(path: Path, suffix: str) -> int:
    try:
        return os.open(path.with_name(f"{path.name}.{suffix}"), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, OWN_FILE)
    except OSError as error:
        raise _unwritable(path, error) from error


def _flock(handle: int, how: int) -> bool:
    try:
        fcntl.flock(handle, how | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _unwritable(path: Path, error: OSError) -> DataFileError:
    return DataFileError(
        "unwritable",
        f"{path.parent} cannot be written ({error.strerror}): the data file is not damaged; give this user the right to write there, "
        "or name another file with --data or SALDATURA_DATA",
    )

"""A whole job as one JSON document: every fact and photo, a format version, and checksums that find damage."""

import base64
import binascii
import hashlib
import json
from collections.abc import Callable
from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, ValidationError

from saldatura import __version__
from saldatura.core.errors import field_lines
from saldatura.core.job import JobFacts
from saldatura.formats.photo import PhotoError, check_photo

FORMAT = "saldatura-job"
VERSION = 2


class JobFileError(ValueError):
    """The document is no job file, is damaged, or is of a newer program; the message says which."""


class JobFile(BaseModel):
    """The document. `sha256` is over `job` as canonical JSON (sorted keys, no spaces, whole numbers without a point, UTF-8).

    `photos` are the JPEG files in base64, each by the SHA-256 that the job names it with (since version 2).
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["saldatura-job"]
    version: int
    program_version: str
    exported_at: datetime
    sha256: str
    job: dict[str, Any]
    photos: dict[str, str] = {}


def write(facts: JobFacts, at: datetime, photo: Callable[[str], bytes]) -> JobFile:
    """The job as a document; `photo` gives the file of a SHA-256."""
    job = facts.model_dump(mode="json")
    return JobFile(
        format=FORMAT,
        version=VERSION,
        program_version=__version__,
        exported_at=at,
        sha256=_digest(job),
        job=job,
        photos={kept.sha256: base64.b64encode(photo(kept.sha256)).decode() for kept in facts.photos},
    )


def parse(document: Any) -> tuple[JobFacts, list[bytes]]:
    """The facts and the photos in a document. Raises JobFileError with one clear line."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise JobFileError("this is not a Saldatura job file; choose a file that Hand over exported")
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise JobFileError(
            f"the job file has version {version} and this program reads up to {VERSION}; import it with a newer Saldatura"
        )
    try:
        held = JobFile.model_validate(document)
        if held.sha256 != _digest(held.job):
            raise JobFileError("the job file is damaged: its checksum does not match; export it again")
        facts = JobFacts.model_validate(held.job)
    except ValidationError as error:
        field, message = field_lines(error.errors())[0]
        raise JobFileError(f"the job file is damaged: {field} {message}; export it again") from error
    return facts, [_photo(held, kept.sha256) for kept in facts.photos]


def _photo(held: JobFile, sha256: str) -> bytes:
    try:
        jpeg = base64.b64decode(held.photos.get(sha256, ""), validate=True)
        if hashlib.sha256(jpeg).hexdigest() != sha256:
            raise JobFileError("the job file is damaged: a photo is missing or changed; export it again")
        check_photo(jpeg)
    except (binascii.Error, PhotoError) as error:
        raise JobFileError(f"the job file is damaged: {error}; export it again") from error
    return jpeg


def _plain(value: Any) -> Any:
    # Other programs write 5.0 as 5; both mean the same, so both must give the same checksum.
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    if isinstance(value, list):
        return [_plain(item) for item in value]
    return int(value) if isinstance(value, float) and value.is_integer() else value


def _digest(job: dict[str, Any]) -> str:
    canonical = json.dumps(_plain(job), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(canonical.encode()).hexdigest()

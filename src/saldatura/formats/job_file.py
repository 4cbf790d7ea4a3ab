"""A whole job as one JSON document: every fact in the order of record, every photo, a format version, and a checksum that
finds damage.
"""

import base64
import hashlib
import json
import re
import uuid
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import MappingProxyType
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from saldatura import __version__
from saldatura.battery.errors import Impossible, Refused, Unfitting, field_lines
from saldatura.battery.quantities import When
from saldatura.formats.checksum import checksum, look_at, photo_of_text, photos_as_text
from saldatura.formats.plain import in_json
from saldatura.job.admission import Admission
from saldatura.job.facts import Fact, IntakeFact, JobFacts
from saldatura.job.registry import read, written

FORMAT = "saldatura-job"
VERSION = 3


class JobFileError(Unfitting):
    """The document is no job file, is damaged, or is of a newer program; the message says which."""


class JobFile(BaseModel):
    """The document. `sha256` is over `job` as canonical JSON (sorted keys, no spaces, whole numbers without a point, UTF-8).

    `photos` are the JPEG files in base64, each by the SHA-256 that the job names it with; `missing`: those whose file was gone, or not
    what it was, when the job was exported.
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["saldatura-job"]
    version: int
    program_version: str
    exported_at: datetime
    sha256: str
    job: dict[str, Any]
    photos: dict[str, str] = {}
    missing: list[str] = []


class _HeldJob(BaseModel):
    model_config = ConfigDict(extra="forbid")

    id: int
    uid: Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    opened_at: When
    facts: Annotated[list[dict[str, Any]], Field(max_length=20_000)]


@dataclass(frozen=True)
class HeldJob:
    """A document's job: its facts as they are written, in order, and its photos."""

    uid: str
    opened_at: datetime
    facts: list[dict[str, Any]]
    photos: list[str | Path]

    @property
    def pictures(self) -> Iterator[bytes]:
        """The JPEG files, one at a time: all of them at once would fill a small machine."""
        return (photo.read_bytes() if isinstance(photo, Path) else base64.b64decode(photo) for photo in self.photos)


def write(facts: JobFacts, at: datetime, photo: Callable[[str], bytes | None]) -> JobFile:
    """The job as a document; `photo` gives the file of a SHA-256. One that is missing, or was changed since, is named in
    `missing`, and all else goes out.
    """
    whole, missing = photos_as_text((kept.sha256 for kept in facts.photos), photo)
    return _document(_job(facts), at, whole, missing)


def streamed(facts: JobFacts, at: datetime, photo: Callable[[str], bytes | None]) -> Iterator[bytes]:
    """The same document as `write` gives, as bytes of JSON, a photo at a time: none of it waits in memory for whoever reads slowly."""
    head = _document(_job(facts), at, {}, []).model_dump(mode="json", exclude={"photos", "missing"})
    yield in_json(json.dumps(head, ensure_ascii=False))[:-1].encode() + b', "photos": {'
    missing, first = list[str](), True
    for sha256 in dict.fromkeys(kept.sha256 for kept in facts.photos):
        jpeg = photo(sha256)
        if jpeg is None or hashlib.sha256(jpeg).hexdigest() != sha256:
            missing.append(sha256)
            continue
        yield (b"" if first else b", ") + json.dumps(sha256).encode() + b': "' + base64.b64encode(jpeg) + b'"'
        first = False
    yield b'}, "missing": ' + json.dumps(missing).encode() + b"}"


def shared(facts: JobFacts, at: datetime) -> JobFile:
    """The job as a document that does not tell whose it is: no customer, their telephone, serial, note of the intake, or photo; the customer's name and
    the serial are taken out of every other text. It has a name of its own, the same each time.
    """
    job = _job(facts)
    intakes, left = facts.recorded(IntakeFact), [gone.left_out.agreed_with for gone in facts.structure.gone]
    # The longest first: a name may be a part of another.
    names = sorted(
        {
            n.strip()
            for n in (*left, *(n for i in intakes for n in (i.customer, i.contact, i.serial)))
            if len(n.strip()) > 2
        },
        key=len,
        reverse=True,
    )
    words = re.compile("|".join(map(re.escape, names)), re.IGNORECASE) if names else None
    job["facts"] = _without(job["facts"], words)
    job["uid"] = str(uuid.uuid5(uuid.NAMESPACE_OID, f"shared {facts.uid}"))
    return _document(job, at, {}, [])


# Facts of photos, and fields that name one.
OF_PHOTOS = ("photo", "photo_pin")
PHOTO_NUMBERS = ("photo", "photo_id")


# Moments, numbers of things and checksums: no hand wrote them, and with a part taken out they are none.
_NO_WORDS = re.compile(
    r"\d{4}-\d\d-\d\dT[\d:.]+(?:Z|[+-]\d\d:\d\d)|[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}|[0-9a-f]{32,64}"
)


def _without(value: Any, words: re.Pattern[str] | None) -> Any:
    if isinstance(value, list):
        kept = (v for v in value if not (isinstance(v, dict) and v.get("kind") in OF_PHOTOS and "body" in v))
        return [_without(v, words) for v in kept]
    if isinstance(value, dict):
        if "customer" in value and "pack_name" in value:
            value = {**value, "customer": "not told", "contact": "", "serial": "", "note": ""}
        if "agreed_with" in value:
            value = {**value, "agreed_with": "the customer"}
        if value.get("kind") == "accepted" and isinstance(value.get("body"), dict):
            value = {**value, "body": {**value["body"], "by": "not told"}}
        return {k: None if k in PHOTO_NUMBERS and isinstance(v, int) else _without(v, words) for k, v in value.items()}
    return (
        words.sub("…", value)
        if words is not None and isinstance(value, str) and not _NO_WORDS.fullmatch(value)
        else value
    )


def _job(facts: JobFacts) -> dict[str, Any]:
    return {
        "id": facts.id,
        "uid": facts.uid,
        "opened_at": facts.opened_at.isoformat(),
        "facts": [written(fact) for fact in facts.whole],
    }


def _document(job: dict[str, Any], at: datetime, photos: dict[str, str], missing: list[str]) -> JobFile:
    return JobFile(
        format=FORMAT,
        version=VERSION,
        program_version=__version__,
        exported_at=at,
        sha256=_digest(job),
        job=job,
        photos=photos,
        missing=missing,
    )


def parse(document: Any, lifted: Mapping[str, Path] = MappingProxyType({})) -> HeldJob:
    """The facts and the photos in a document, its checksum right; `lifted`: photos that lie in files of their own already, and are empty
    in it. Raises JobFileError with one clear line.
    """
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise JobFileError("not_ours", "this is not a Saldatura job file; choose a file that Hand over exported")
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise JobFileError(
            "newer_version",
            f"the job file has version {version} and this program reads up to {VERSION}; import it with a newer Saldatura",
        )
    if version != VERSION:
        raise JobFileError(
            "no_such_version", f"the job file has version {version!s:.20}, and only version {VERSION} is read"
        )
    try:
        held = JobFile.model_validate(document)
        if held.sha256 != _digest(held.job):
            raise JobFileError("checksum", "the job file is damaged: its checksum does not match; export it again")
        job = _HeldJob.model_validate(held.job)
    except ValidationError as error:
        field, code, message = field_lines(error.errors())[0]
        raise JobFileError(code, f"the job file is damaged: {field} {message}; export it again") from error
    except (KeyError, TypeError, AttributeError) as error:
        raise JobFileError(
            "fields_missing", f"the job file is damaged: {error} is missing or of another kind; export it again"
        ) from error
    # Whether a body is one is asked when its fact comes in.
    bodies = [fact.get("body") for fact in job.facts if fact.get("kind") == "photo"]
    named = [body["sha256"] for body in bodies if isinstance(body, dict) and "sha256" in body]
    photos = [_photo(held, str(sha256), lifted) for sha256 in named if sha256 not in held.missing]
    return HeldJob(job.uid, job.opened_at, job.facts, photos)


def admit(held: HeldJob, admission: Admission) -> None:
    """Bring every fact in through its gate, in order. Raises JobFileError that names the fact which did not come in."""
    for number, entry in enumerate(held.facts, start=1):
        where = f"fact {number}, {entry.get('kind', 'of no kind')!s:.40},"
        try:
            admission.admit(_fact(entry))
        except ValidationError as error:
            field, code, message = field_lines(error.errors())[0]
            raise JobFileError(code, f"{where} does not come in: {field} {message}; nothing was taken") from error
        except Impossible as error:
            raise JobFileError(
                error.code, f"{where} does not come in: {error.field}: {error.message}; nothing was taken"
            ) from error
        except Refused as error:
            raise JobFileError(error.code, f"{where} does not come in: {error.message}; nothing was taken") from error
    try:
        admission.done()
    except Impossible as error:
        raise JobFileError(error.code, f"the job does not come in: {error.message}; nothing was taken") from error


def _fact(entry: dict[str, Any]) -> Fact:
    if set(entry) != {"kind", "id", "at", "clock_s", "body"} or not isinstance(entry["body"], dict):
        raise Impossible("facts", "fields_missing", "has not the fields kind, id, at, clock_s and body")
    number = entry["id"]
    if not isinstance(number, int) or isinstance(number, bool) or not 1 <= number <= 2**62:
        raise Impossible("id", "not_a_number", "is not a number from 1 up")
    return read(str(entry["kind"]), number, entry["at"], entry["clock_s"], entry["body"])


def _photo(held: JobFile, sha256: str, lifted: Mapping[str, Path]) -> str | Path:
    """A photo as it stands in the file, or where it was lifted to, looked at. Raises JobFileError."""
    photo: str | Path = held.photos.get(sha256, "") or lifted.get(sha256, "")
    try:
        if isinstance(photo, Path):
            look_at(photo.read_bytes(), sha256)
        else:
            photo_of_text(photo, sha256)
    except Unfitting as error:
        raise JobFileError(error.code, f"the job file is damaged: {error}; export it again") from error
    return photo


def _digest(job: dict[str, Any]) -> str:
    try:
        return checksum(job)
    except Unfitting as error:
        raise JobFileError(error.code, f"the job file is damaged: {error}") from error

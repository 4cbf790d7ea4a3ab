"""A pattern as one JSON document that holds all of it: its sheet, what came before it, what jobs counted, its photos as data, and a
checksum that finds damage. Its schema is docs/pattern.schema.json.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from saldatura import __version__
from saldatura.battery.errors import Unfitting, field_lines
from saldatura.formats.checksum import checksum, photo_of_text, photos_as_text
from saldatura.shop.patterns.experience import Experience
from saldatura.shop.patterns.facts import PatternUid
from saldatura.shop.patterns.lineage import MOST_REVISIONS, Ancestor, Revision, digest_of
from saldatura.shop.patterns.sheet import MOST_PHOTOS, PatternSheet

FORMAT, VERSION = "saldatura-pattern", 1
# A photo as it is kept has less than this; in base64, in signs.
LARGEST_PHOTO = 6_000_000


class PatternFileError(Unfitting):
    """The document is no pattern, is damaged, or is of a newer program; the message says which."""


class HeldPattern(BaseModel):
    """A pattern: its own number everywhere, its revision, the revisions before it by their digests, what is stated, what was counted."""

    model_config = ConfigDict(extra="forbid")

    uid: PatternUid = Field(description="The pattern's own number, the same in every shop.")
    revision: Revision = Field(description="Counts up with every change.")
    forked_from: PatternUid | None = Field(None, description="The pattern that it branched off, where it did.")
    history: Annotated[list[Ancestor], Field(max_length=MOST_REVISIONS)] = Field(
        [],
        description="The revisions before this one; a digest is half of the SHA-256 over the sheet as canonical JSON.",
    )
    sheet: PatternSheet = Field(description="What is stated of the pack model.")
    experience: Annotated[list[Experience], Field(max_length=500)] = Field(
        [], description="What jobs counted, a line each shop, by the shops' numbers."
    )

    @property
    def digest(self) -> str:
        """The digest of its sheet."""
        return digest_of(self.sheet)


class PatternFile(BaseModel):
    """The document. `sha256` is over `pattern` as canonical JSON (sorted keys, no spaces, whole numbers without a point, UTF-8)."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"$schema": "https://json-schema.org/draft/2020-12/schema"}
    )

    format: Literal["saldatura-pattern"] = Field(description="Always this.")
    version: int = Field(description="Of this layout.")
    program_version: str = Field(description="The program that wrote it.")
    exported_at: datetime = Field(description="When it was written.")
    sha256: str = Field(description="Checksum over `pattern`.")
    pattern: dict[str, Any] = Field(description="The pattern.")
    photos: Annotated[dict[str, Annotated[str, Field(max_length=LARGEST_PHOTO)]], Field(max_length=MOST_PHOTOS)] = (
        Field({}, description="JPEG files in base64, by the SHA-256 that the sheet names them with.")
    )
    missing: Annotated[list[str], Field(max_length=MOST_PHOTOS)] = Field(
        [], description="Photos whose file was gone when it was written."
    )


@dataclass(frozen=True)
class ReadPattern:
    """A document's pattern and its photos."""

    pattern: HeldPattern
    photos: Sequence[bytes]


def schema() -> dict[str, Any]:
    """The JSON Schema of the whole document."""
    document, held = PatternFile.model_json_schema(), HeldPattern.model_json_schema()
    defs = {**held.pop("$defs"), "Pattern": held}
    document["properties"]["pattern"] = {"$ref": "#/$defs/Pattern", "description": "The pattern."}
    return {**document, "$defs": defs}


def write(held: HeldPattern, at: datetime, photo: Callable[[str], bytes | None]) -> PatternFile:
    """The pattern as a document; `photo` gives the file of a SHA-256."""
    whole, missing = photos_as_text(dict.fromkeys(p.sha256 for p in held.sheet.photos), photo)
    fields = held.model_dump(mode="json")
    return PatternFile(
        format=FORMAT, version=VERSION, program_version=__version__, exported_at=at, sha256=checksum(fields), pattern=fields, photos=whole,
        missing=missing,
    )  # fmt: skip


def parse(document: Any) -> ReadPattern:
    """The pattern in a document, its checksum right and its photos whole. Raises PatternFileError with one clear line."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise PatternFileError(
            "not_ours", "this is no pattern of Saldatura; choose a file that a page of Patterns exported"
        )
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise PatternFileError(
            "newer_version",
            f"the pattern has version {version} and this program reads up to {VERSION}; import it with a newer Saldatura",
        )
    if version != VERSION:
        raise PatternFileError(
            "no_such_version", f"the pattern has version {version!s:.20}, and only version {VERSION} is read"
        )
    try:
        file = PatternFile.model_validate(document)
        if file.sha256 != checksum(file.pattern):
            raise PatternFileError("checksum", "the pattern is damaged: its checksum does not match; export it again")
        held = HeldPattern.model_validate(file.pattern)
        named = dict.fromkeys(p.sha256 for p in held.sheet.photos)
        photos = [photo_of_text(file.photos.get(sha256, ""), sha256) for sha256 in named if sha256 not in file.missing]
    except ValidationError as error:
        field, code, message = field_lines(error.errors())[0]
        raise PatternFileError(code, f"the pattern is damaged: {field} {message}; export it again") from error
    except PatternFileError:
        raise
    except Unfitting as error:
        raise PatternFileError(error.code, f"the pattern is damaged: {error}; export it again") from error
    return ReadPattern(held, photos)

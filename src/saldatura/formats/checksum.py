"""Checksums of documents of ours, and photos inside them: one way for every kind of file."""

import base64
import binascii
import hashlib
import json
from collections.abc import Callable, Iterable
from typing import Any

from saldatura.battery.errors import Unfitting
from saldatura.formats.photo import check_photo


def _plain(value: Any) -> Any:
    # Other programs write 5.0 as 5; both mean the same, so both must give the same checksum.
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    if isinstance(value, list):
        return [_plain(item) for item in value]
    return int(value) if isinstance(value, float) and value.is_integer() else value


def checksum(value: Any) -> str:
    """SHA-256 over a value as canonical JSON: sorted keys, no spaces, whole numbers without a point, UTF-8. Raises Unfitting for what is
    nested too deeply, or holds what is no text.
    """
    try:
        canonical = json.dumps(_plain(value), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
        return hashlib.sha256(canonical.encode()).hexdigest()
    except (RecursionError, UnicodeEncodeError) as error:
        raise Unfitting("too_deep", "it is nested too deeply, or holds what is no text") from error


def photos_as_text(named: Iterable[str], photo: Callable[[str], bytes | None]) -> tuple[dict[str, str], list[str]]:
    """Photos by their SHA-256 in base64, and those whose file is gone or is not what it was."""
    pictures = {sha256: photo(sha256) for sha256 in named}
    whole = {
        sha256: base64.b64encode(jpeg).decode()
        for sha256, jpeg in pictures.items()
        if jpeg is not None and hashlib.sha256(jpeg).hexdigest() == sha256
    }
    return whole, [sha256 for sha256 in pictures if sha256 not in whole]


def photo_of_text(text: str, sha256: str) -> bytes:
    """A photo of a document, looked at. Raises Unfitting with one clear line."""
    try:
        jpeg = base64.b64decode(text, validate=True)
        look_at(jpeg, sha256)
    except binascii.Error as error:
        raise Unfitting("photo_damaged", str(error)) from error
    return jpeg


def look_at(jpeg: bytes, sha256: str) -> None:
    """Whether a photo is the one that its name tells, and a photo. Raises Unfitting with one clear line."""
    if hashlib.sha256(jpeg).hexdigest() != sha256:
        raise Unfitting("photo_missing", "a photo is missing or changed")
    check_photo(jpeg)

"""Photos lifted out of a job file as it comes in, each into a file of its own: a job with all of its photos never lies in memory."""

import base64
import binascii
import re
from pathlib import Path

# How `JobFile` holds a photo: by its SHA-256, in base64.
_PHOTO = re.compile(rb'"([0-9a-f]{64})"\s*:\s*"([A-Za-z0-9+/]{1000,}={0,2})"')
# From this size on it is worth it.
LIFTED_FROM = 1024 * 1024


def lift(whole: bytes | bytearray, into: Path) -> tuple[bytes, dict[str, Path]]:
    """The document without its photos, each of which is empty then, and where each lies. What is no base64 stays as it is."""
    pieces, last, lifted = list[bytes](), 0, dict[str, Path]()
    for found in _PHOTO.finditer(whole):
        sha256 = found.group(1).decode()
        try:
            jpeg = base64.b64decode(found.group(2), validate=True)
        except binascii.Error:
            continue
        path = into / sha256
        path.write_bytes(jpeg)
        lifted[sha256] = path
        pieces += [bytes(memoryview(whole)[last : found.start(2)])]
        last = found.end(2)
    pieces.append(bytes(memoryview(whole)[last:]))
    return b"".join(pieces), lifted

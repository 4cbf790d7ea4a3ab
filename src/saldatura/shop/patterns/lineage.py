"""Where a sheet stands in its pattern's line: the same, newer, older, or another branch."""

import hashlib
import json
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import Value
from saldatura.shop.patterns.sheet import PatternSheet

Digest = Annotated[str, Field(max_length=32, pattern=r"^[0-9a-f]{32}$")]
MOST_REVISIONS = 1000
Revision = Annotated[int, Field(ge=1, le=100_000)]
Relation = Literal["new", "same", "newer", "older", "fork"]


class Ancestor(Value):
    """A revision that came before, by its number and what it said."""

    revision: Revision
    digest: Digest


def digest_of(sheet: PatternSheet) -> str:
    """Half of the SHA-256 over the sheet as canonical JSON: sorted keys, no spaces."""
    text = json.dumps(sheet.model_dump(mode="json"), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def relation(ours: str, our_history: Sequence[Ancestor], theirs: str, their_history: Sequence[Ancestor]) -> Relation:
    """How a sheet of the same pattern stands to ours, both by digest and what came before each."""
    if ours == theirs:
        return "same"
    if any(one.digest == ours for one in their_history):
        return "newer"
    return "older" if any(one.digest == theirs for one in our_history) else "fork"

"""A pattern's facts: each revision whole, as it was signed; and that it is used no more."""

from typing import Annotated

from pydantic import Field

from saldatura.battery.quantities import Value
from saldatura.ledger.fact import Fact, Person, Reason
from saldatura.shop.patterns.experience import Experience
from saldatura.shop.patterns.lineage import MOST_REVISIONS, Ancestor, Digest, Revision
from saldatura.shop.patterns.sheet import PatternSheet

PatternUid = Annotated[str, Field(max_length=36, pattern=r"^[0-9a-f-]{36}$")]
PatternNumber = Annotated[int, Field(ge=1, le=2**53)]


class NewPattern(Value):
    """A sheet as a hand has it now: by whom, and why."""

    sheet: PatternSheet
    by: Person
    why: Reason


class Revised(Fact):
    """A revision as recorded. `from_file`: the digest of the file it was taken from; `forked_from`: the pattern it branched off."""

    uid: PatternUid
    revision: Revision
    digest: Digest
    sheet: PatternSheet
    by: Person
    why: Reason
    history: Annotated[list[Ancestor], Field(max_length=MOST_REVISIONS)] = []
    experience: Annotated[list[Experience], Field(max_length=500)] = []
    forked_from: PatternUid | None = None
    from_file: bool = False


class NewRetired(Value):
    """A pattern is used no more: by whom, why; `merged_into`: the pattern that it became a part of. `retired` false: it is used again."""

    by: Person
    why: Reason
    retired: bool = True
    merged_into: PatternNumber | None = None


class RetiredFact(NewRetired, Fact):
    """The same as recorded."""


class Identity(Fact):
    """The number that stands for this shop where patterns go from shop to shop; it tells nothing of it."""

    uid: PatternUid

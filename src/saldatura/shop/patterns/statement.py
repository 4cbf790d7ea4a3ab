"""What every statement of a pattern carries: where it is from, and how often it held or did not."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from saldatura.battery.quantities import NOT_BLANK, Value, Words

Source = Literal["job", "data_sheet", "told"]
Named = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
Line = Annotated[Words, Field(min_length=1, max_length=240, pattern=NOT_BLANK)]
Short = Annotated[Words, Field(max_length=60)]
Count = Annotated[int, Field(ge=0, le=100_000)]


class Statement(Value):
    """A statement. `KEY` names the fields that tell it from the others of its section; `COUNTS` those that only count."""

    KEY: ClassVar[tuple[str, ...]] = ()
    COUNTS: ClassVar[tuple[str, ...]] = ("confirmed", "contradicted")

    source: Source = Field("told", description="Where it is from: a job, a data sheet, or somebody's word.")
    origin: Annotated[Words, Field(max_length=80)] = Field("", description="Which job or which sheet, in a word.")
    confirmed: Count = Field(0, description="How often it was found to hold on another pack.")
    contradicted: Count = Field(0, description="How often another pack did not hold to it.")

    @property
    def key(self) -> str:
        """What the statement goes by in its section."""
        return "/".join(_plain(getattr(self, name)) for name in self.KEY)


def _plain(value: object) -> str:
    """A value as it stands in a key: nothing for what is not told, and 22 for 22.0."""
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)

"""What was done to a pack beside charging it: a mended wire, a cleaned plug, a part put in."""

from typing import Annotated, Literal, Self, get_args

from pydantic import Field

from saldatura.battery.places import PlaceName, TapPlace
from saldatura.battery.quantities import GroupNumber, Pack, Point, Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.becoming import Board
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import FactId, Person

Did = Literal[
    "cleaned",
    "reseated",
    "mended_wire",
    "resoldered",
    "rewelded",
    "insulated",
    "replaced_part",
    "let_down",
    "dried",
    "other",
]
# Names that a hand gives to the board.
BOARD_NAMES = ("board", "the board", "protection board")
DIDS: tuple[Did, ...] = get_args(Did)


class GroupPlace(Value):
    """The cells and joints of one group."""

    kind: Literal["group"] = "group"
    group: GroupNumber


class PartPlace(Value):
    """A part that is neither a tap nor a group, by name: the sensor plug, the board, the main lead."""

    kind: Literal["part"] = "part"
    part: PlaceName


class TerminalsPlace(Value):
    """The pack's own terminals, and what leads to them."""

    kind: Literal["terminals"] = "terminals"


class BoardPlace(Value):
    """The pack's board."""

    kind: Literal["board"] = "board"


WorkPlace = Annotated[TapPlace | GroupPlace | TerminalsPlace | BoardPlace | PartPlace, Field(discriminator="kind")]


class NewWork(Value):
    """What was done, where, and by whom; with what was put in, how long it took at the bench, and a photo of the job.
    `board`: which board was put in.
    """

    did: Did
    place: WorkPlace
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""
    parts: Annotated[Words, Field(max_length=200)] = ""
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None
    photo: FactId | None = None
    board: Board | None = None


class WorkFact(NewWork, JobFact):
    """Work as recorded."""

    @property
    def named(self) -> str:
        return words.work_at(place_words(self.place))

    def reads_now(self, structure: Structure) -> Self | None:
        if isinstance(self.place, GroupPlace):
            now = structure.group(self.place.group, self.id)
            return None if now is None else self.with_(place=self.place.model_copy(update={"group": now}))
        if isinstance(self.place, TapPlace):
            return self.with_(place=self.place.model_copy(update={"tap": structure.tap(self.place.tap, self.id)}))
        return self


def place_words(place: WorkPlace) -> str:
    """Where work was done, in words."""
    match place:
        case TapPlace(tap=tap):
            return words.wire_of_tap(tap)
        case GroupPlace(group=group):
            return f"group {group}"
        case PartPlace(part=part):
            return part
        case BoardPlace():
            return "board"
    return "the terminals"


def touches(place: WorkPlace, point: Point, pack: Pack) -> bool:
    """Whether work there may change what a point reads: one that begins or ends at it."""
    if isinstance(place, TerminalsPlace) or point.kind == "pack":
        return isinstance(place, TerminalsPlace) and point.kind == "pack"
    ends = pack.span(point)
    if isinstance(place, TapPlace):
        return place.tap in ends
    return isinstance(place, GroupPlace) and max(ends) == place.group

"""A pattern's sheet: everything that is stated of a pack model, a section each. Only its title and its cells must be told."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.judge.types import CauseName, PackKind
from saldatura.battery.places import Place, TapPlace
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import (
    NOT_BLANK,
    ChemistryKey,
    Fraction,
    GroupNumber,
    Pack,
    TapNumber,
    Value,
    Volts,
    Words,
)
from saldatura.shop.block import NewBlock
from saldatura.shop.patterns import words
from saldatura.shop.patterns.statement import Count, Line, Named, Short, Statement

Ohms = Annotated[float, Field(ge=0, le=1e9)]
Reading = Annotated[float, Field(ge=-1e9, le=1e9)]
Protection = Literal[
    "over_charge", "over_discharge", "over_current", "short_circuit", "temperature", "fuse", "group_limits", "balancing"
]
# More than anybody looks at beside a pack; they keep a file in hand.
MOST_PHOTOS, MOST_POINTS = 12, 60


class PackLabel(Value):
    """What the label on its case says."""

    lines: Annotated[Words, Field(max_length=400)] = Field("", description="The label's own words.")
    volts: Annotated[float, Field(gt=0, le=1000)] | None = Field(None, description="Volts on the label.")
    ah: Annotated[float, Field(gt=0, le=10_000)] | None = Field(None, description="Ampere-hours on the label.")


class CellSeen(Statement):
    """A type of cell that was found in it."""

    KEY: ClassVar[tuple[str, ...]] = ("cell",)
    cell: Named = Field(description="The type as it is printed or told.")
    size: Short = Field("", description="Its size, such as 18650.")
    chemistry: ChemistryKey | None = Field(None, description="Its chemistry, where it is not the pack's.")


class ContactSeen(Statement):
    """A contact that can be touched from outside, and what a healthy pack reads there against pack minus."""

    KEY: ClassVar[tuple[str, ...]] = ("contact",)
    contact: Named = Field(description="What it is called, as it is marked or lies.")
    touches: Literal["minus", "plus", "tap", "sensor", "data", "other"] = Field(
        "other", description="What is behind it."
    )
    tap: TapNumber | None = Field(None, description="The tap behind it, of `tap`.")
    volts: Volts | None = Field(None, description="What it reads on a healthy pack at rest, V.")
    ohm: Ohms | None = Field(None, description="What an ohmmeter reads there in a room, ohm.")
    says: Short = Field("", description="What else there is to know.")


class PinSeen(Value):
    """A pin of a connector."""

    pin: Annotated[int, Field(ge=0, le=80)] = Field(
        description="Its number, as it stands on the plug or from its mark."
    )
    wire: Short = Field("", description="Colour of its wire as the hand sees it.")
    tap: TapNumber | None = Field(None, description="The tap it leads to.")
    sensor: Short = Field("", description="The sensor it leads to.")
    volts: Volts | None = Field(None, description="What it reads against pack minus on a healthy pack at rest, V.")


class PlugSeen(Statement):
    """A connector inside, pin by pin."""

    KEY: ClassVar[tuple[str, ...]] = ("plug",)
    plug: Named = Field(description="What it is called.")
    carries: Literal["balance", "sensor", "output", "other"] = Field("balance", description="What it carries.")
    pins: Annotated[list[PinSeen], Field(max_length=81)] = Field([], description="Its pins.")


class BoardSeen(Statement):
    """A board, of a revision."""

    KEY: ClassVar[tuple[str, ...]] = ("board", "revision")
    board: Named = Field(description="What it is called.")
    revision: Short = Field("", description="Its revision.")
    told_by: Short = Field("", description="What tells it from the others.")
    has: Annotated[list[Protection], Field(max_length=8)] = Field([], description="Protections it has.")
    swaps_with: Annotated[list[Short], Field(max_length=12)] = Field(
        [], description="Revisions it may be swapped with."
    )
    says: Short = Field("", description="What else there is to know.")


class PhotoPoint(Value):
    """A point on a photo: a tap, a contact by its name, a sensor."""

    place: Place = Field(description="What is touched there.")
    x: Fraction = Field(description="From the left, as a share of the width.")
    y: Fraction = Field(description="From the top, as a share of the height.")


class PhotoSeen(Statement):
    """A photo with its points."""

    KEY: ClassVar[tuple[str, ...]] = ("photo",)
    photo: Named = Field(description="What it is called; steps name it so.")
    sha256: Annotated[str, Field(max_length=64, pattern=r"^[0-9a-f]{64}$")] = Field(description="SHA-256 of its JPEG.")
    width: Annotated[int, Field(ge=1, le=100_000)] = Field(description="Pixels.")
    height: Annotated[int, Field(ge=1, le=100_000)] = Field(description="Pixels.")
    points: Annotated[list[PhotoPoint], Field(max_length=MOST_POINTS)] = Field([], description="Where to touch.")


class SheetStep(Statement):
    """A step of opening or closing."""

    KEY: ClassVar[tuple[str, ...]] = ("does",)
    does: Line = Field(description="What is done.")
    tool: Short = Field("", description="With which tool and bit.")
    caution: Annotated[Words, Field(max_length=160)] = Field(
        "", description="What can hurt or break here, such as what not to cut."
    )
    photo: Short = Field("", description="The photo that shows it, by its name.")


class CodeSeen(Statement):
    """What its lamps or its buzzer show, and what that means, on boards of a revision."""

    KEY: ClassVar[tuple[str, ...]] = ("by", "shows", "revision")
    by: Literal["lamp", "beep"] = Field("lamp", description="What shows it.")
    shows: Named = Field(description="What is seen or heard.")
    revision: Short = Field("", description="Of which revision of the board; empty: of all.")
    means: Literal["temperature", "cell", "communication", "unknown"] = Field(
        "unknown", description="What is at fault, by kind."
    )
    says: Short = Field("", description="What it means, in words.")


class NormalSeen(Statement):
    """What a healthy one reads."""

    KEY: ClassVar[tuple[str, ...]] = ("reads", "at_c")
    reads: Literal["sensor_ohm", "group_ohm", "leak_ma", "idle_ma", "charger_end_v", "cut_off_v"] = Field(
        description="What is read: sensor, a group's 10 s resistance, a group's leak, the board's own draw, volts at which its charger ends, "
        "volts at which its device cuts off."
    )  # fmt: skip
    value: Reading = Field(description="The figure, in the unit of its name.")
    low: Reading | None = Field(None, description="From where it is still healthy.")
    high: Reading | None = Field(None, description="Up to where it is still healthy.")
    at_c: Annotated[float, Field(ge=-40, le=85)] | None = Field(None, description="At which temperature, °C.")


class QuirkSeen(Statement):
    """Something odd that is no fault."""

    KEY: ClassVar[tuple[str, ...]] = ("says",)
    says: Line = Field(description="What is odd.")
    feeds_board: Annotated[list[GroupNumber], Field(max_length=40)] = Field(
        [], description="Groups that feed its board."
    )


class Cure(Value):
    """A repair that helped, and how often."""

    repair: RepairName = Field(description="The repair, by its name.")
    times: Count = Field(1, description="How often it helped.")


class FaultTold(Statement):
    """A fault that it is told to have, as often as was told; what jobs counted stands beside, shop by shop."""

    KEY: ClassVar[tuple[str, ...]] = ("cause",)
    cause: CauseName = Field(description="The cause, by its name.")
    seen: Count = Field(1, description="On how many packs.")
    cures: Annotated[list[Cure], Field(max_length=14)] = Field([], description="What cured it.")
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = Field(None, description="Minutes at the bench, about.")
    says: Short = Field("", description="What to look for.")


class PartSeen(Statement):
    """A part that it may want."""

    KEY: ClassVar[tuple[str, ...]] = ("part",)
    part: Named = Field(description="What it is called.")
    count: Annotated[int, Field(ge=1, le=500)] = Field(1, description="How many.")
    says: Short = Field("", description="What else there is to know, such as its size.")


class Built(Statement):
    """How its block is built."""

    KEY: ClassVar[tuple[str, ...]] = ()
    block: NewBlock = Field(description="Arrangement or map of its cells, strips, parts.")


Many = 60


class PatternSheet(Value):
    """What is stated of a pack model."""

    title: Annotated[Words, Field(min_length=1, max_length=80, pattern=NOT_BLANK)] = Field(
        description="Its name, free of makes."
    )
    tags: Annotated[list[Named], Field(max_length=12)] = Field([], description="Words it is found by.")
    pack: Pack = Field(description="Its cells and how they are joined.")
    kind: PackKind = Field("other", description="What it is for.")
    label: PackLabel = Field(PackLabel(), description="What its label says.")
    has_board: bool | None = Field(None, description="Whether it has a protection board.")
    has_balance_wires: bool | None = Field(None, description="Whether it has balance wires.")
    has_sensor: bool | None = Field(None, description="Whether it has a temperature sensor.")
    board_levels: bool | None = Field(None, description="Whether its board levels the groups.")
    outside_taps: Annotated[list[TapNumber], Field(max_length=41)] = Field(
        [], description="Taps touched without opening."
    )
    cells: Annotated[list[CellSeen], Field(max_length=Many)] = Field([], description="Cell types found in it.")
    contacts: Annotated[list[ContactSeen], Field(max_length=Many)] = Field([], description="Contacts outside.")
    plugs: Annotated[list[PlugSeen], Field(max_length=8)] = Field([], description="Connectors inside.")
    boards: Annotated[list[BoardSeen], Field(max_length=Many)] = Field([], description="Boards and their revisions.")
    photos: Annotated[list[PhotoSeen], Field(max_length=MOST_PHOTOS)] = Field(
        [], description="Photos with their points."
    )
    opening: Annotated[list[SheetStep], Field(max_length=Many)] = Field([], description="How it is opened, in order.")
    closing: Annotated[list[SheetStep], Field(max_length=Many)] = Field([], description="How it is closed, in order.")
    codes: Annotated[list[CodeSeen], Field(max_length=Many)] = Field([], description="Codes of lamps and buzzers.")
    normals: Annotated[list[NormalSeen], Field(max_length=Many)] = Field([], description="What a healthy one reads.")
    quirks: Annotated[list[QuirkSeen], Field(max_length=Many)] = Field([], description="What is odd and no fault.")
    faults: Annotated[list[FaultTold], Field(max_length=Many)] = Field([], description="Faults it is told to have.")
    parts: Annotated[list[PartSeen], Field(max_length=Many)] = Field([], description="Parts it may want.")
    built: Built | None = Field(None, description="How its block is built.")
    provenance: Annotated[Words, Field(max_length=400)] = Field("", description="Who wrote it, from what.")
    licence: Annotated[Words, Field(max_length=120)] = Field("", description="On which terms it is handed on.")

    @model_validator(mode="after")
    def _fits_together(self) -> Self:
        for name in SECTIONS:
            keys = [one.key.casefold() for one in getattr(self, name)]
            twice = next((key for key in keys if keys.count(key) > 1), None)
            if twice is not None:
                raise Misfit(name, "same_line_twice", words.two_lines_are_the_same(twice))
        beyond = next((tap for tap in self._taps() if tap[1] > self.pack.series), None)
        if beyond is not None:
            raise Misfit(beyond[0], "no_such_tap", words.tap_is_not_there(beyond[1], self.pack.series))
        groups = [g for quirk in self.quirks for g in quirk.feeds_board if g > self.pack.series]
        if groups:
            raise Misfit("quirks", "no_such_group", words.group_is_not_there(groups[0], self.pack.series))
        cells = self.built.block.cells if self.built is not None else []
        lost_group = next((c.group for c in cells if c.group is not None and c.group > self.pack.series), None)
        if lost_group is not None:
            raise Misfit("built", "no_such_group", words.group_is_not_there(lost_group, self.pack.series))
        shown = {photo.photo for photo in self.photos}
        for name in ("opening", "closing"):
            lost = next((step.photo for step in getattr(self, name) if step.photo and step.photo not in shown), None)
            if lost is not None:
                raise Misfit(name, "no_such_photo", words.photo_is_not_there(lost))
        return self

    def _taps(self) -> list[tuple[str, int]]:
        return [
            *(("outside_taps", tap) for tap in self.outside_taps),
            *(("contacts", c.tap) for c in self.contacts if c.tap is not None),
            *(("plugs", p.tap) for plug in self.plugs for p in plug.pins if p.tap is not None),
            *(("photos", p.place.tap) for photo in self.photos for p in photo.points if isinstance(p.place, TapPlace)),
        ]


# Sections of statements, in the order in which hands want them.
SECTIONS: tuple[str, ...] = (
    "contacts", "photos", "opening", "plugs", "boards", "codes", "normals", "quirks", "faults", "cells", "parts", "closing",
)  # fmt: skip
# What is no statement of a section: told once for the pack.
FIELDS: tuple[str, ...] = tuple(name for name in PatternSheet.model_fields if name not in SECTIONS)

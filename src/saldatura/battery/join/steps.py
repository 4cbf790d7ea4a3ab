"""Steps of a work list, and what they are made from: the block, its joints, and what is bare."""

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal, NamedTuple

from pydantic import Field, computed_field

from saldatura.battery.join.map_types import Pole
from saldatura.battery.join.parts import OVER_BLOCK, PackPart, PartKind
from saldatura.battery.join.wiring import PinWire
from saldatura.battery.join.words import steps as words
from saldatura.battery.join.words.steps import IRON
from saldatura.battery.quantities import Value, Volts

WaitKind = Literal["cure", "cool", "rest"]

ListName = Literal[
    "open", "close", "groups", "donor", "drop_group", "transplant", "repin", "board_mounted", "apart_for_good", "case"
]

WorkKind = Literal["rebuild", "groups", "donor", "drop_group", "transplant", "repin", "board_mounted", "apart_for_good"]

# What must hold before a step counts as done: the cells read in place, or a coupon of the day.
StepWants = Literal["polarity", "coupon"]


# What is done in a step.
StepDo = Literal[
    "bed", "charge", "clear", "close", "cover", "cut", "fix", "free", "join", "lay", "lay_aside", "lay_ready", "leave", "lift", "lift_out",
    "look", "mark", "move", "pull", "push", "put", "read", "run", "set", "set_in", "solder", "split", "take", "take_off", "tape", "test",
    "trim", "weigh", "weld",
]  # fmt: skip

# Which step it is, whatever it is called: with what it is about, it is known by that for as long as the list is.
StepCode = Literal[
    "board_in", "bridge", "case_closed", "cell_in", "cell_off", "cells_in", "coupon", "cover", "cover_strips", "cross_cut", "cross_join",
    "device_run", "fix", "harness_off", "harness_on", "height", "holes", "housing", "lead_moved", "lead_off", "lead_on", "leads_on",
    "leg_cut", "leg_on", "lift_out", "mark", "morning", "new_housing", "old_board_feed", "other_block_in", "overnight", "pads_covered",
    "part_in", "part_off", "pin_move", "pin_out", "pins_stay", "plug_in", "plug_out", "polarity", "sensor_in", "sensor_off", "sheet_in",
    "shortened", "split", "strip_cut", "strip_end_cut", "strip_end_join", "strip_join", "tab_paper", "tape", "test", "tie_cut",
    "tie_join", "trial_charge", "weigh", "wire_off", "wire_on",
]  # fmt: skip

WasteKind = Literal["cells", "board", "case"]

# What a step makes of strings side by side.
StringsBecome = Literal["parted", "joined"]


class Ask(Value):
    """What a step wants read before it counts as done: where the probes go, the volts that belong there, and within how much."""

    what: Annotated[str, Field(max_length=400)] = Field(description="What it was, by its name.")
    expected_v: Volts = Field(description="What its pin must read against pin 0, V.")
    within_v: Annotated[float, Field(ge=0, le=1000)]


class Wait(Value):
    """What has to be waited for after a step, in minutes."""

    kind: WaitKind = Field(description="Which kind it is.")
    minutes: Annotated[float, Field(ge=0, le=100_000)] = Field(
        description="Minutes that a touch of this node takes. Default 1."
    )


class WorkStep(Value):
    """One action. `exposed_v`: the largest voltage between any two points that are bare after it; `joins`: cells become joined by
    it, so that all must stand right; `strip`: a strip is cut or laid; `taps` and `cells`: where on the map. What it makes of the pack once it is ticked: `puts_in`, groups
    whose new cells are in; `strings`, parted or joined; `leaves_out`, the group that is out of the string; `puts_board`, another board is in. `wants`: what must hold
    before it counts as done.
    """

    key: str = Field(description="Which step it is: a code and what it is about. It is ticked off by it.")
    joint: str = Field(description="Name of the joint.")
    do: StepDo = Field(description="What is done to the joint, as a code.")
    exposed_v: float = Field(description="Largest voltage between two points that are bare after the step, V.")
    insulate: list[str] = Field([], description="What is covered before the next step.")
    because: str = Field(description="Why, in a technician's words.")
    tool: str = Field("", description="What stops the tool, in a sentence; None where it cannot be said.")
    asks: Ask | None = None
    wait: Wait | None = None
    joins: bool = False
    strip: bool = False
    taps: list[int] = Field([], description="Numbers of the two taps.")
    cells: list[str] = []
    puts_in: list[int] = []
    leaves_out: int | None = None
    puts_board: bool = False
    strings: StringsBecome | None = None
    wants: StepWants | None = None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def action(self) -> str:
        """What is done to what, in words."""
        return words.action(self.do, self.joint)


class Waste(NamedTuple):
    """A kind of waste, what it is called, and its weight where it is reckoned, kg."""

    kind: WasteKind
    called: str
    kg: float | None


class Steps(Value):
    """A list in its order; `peak_v` is the largest voltage bare after any step, `before_v` before the first."""

    name: ListName = Field(description="Which it is.")
    title: str
    steps: list[WorkStep]
    peak_v: float = Field(description="Largest voltage bare after any step, V.")
    before_v: float = Field(description="Voltage that lies bare before the first step, V.")


@dataclass(frozen=True)
class BuildCase:
    """What a list is generated from. `volts` by group from minus; `cells` by group; `sides` by tap: where its strip lies; `spots`:
    each sensor with the cells it is bedded against; `wires`: the pins of the balance connector; `wanted`: the tap each pin should
    have, where the connector is pinned anew; `wired`: it has balance wires; `new_cells`: a rebuild that puts others in; `new_block`: another block comes under the board;
    `unread`: groups of which nobody knows what they read, each of which may lie `spread_v` off. `parts`: what is in it besides; `pouch`:
    its cells are pouches, whose `aluminium` tab is at that pole, glued as `glued` tells; `has_board`: it has a board; `harness`: a temporary one is soldered on for one charge; `new_housing`: the
    balance wires go into a smaller housing; `full_v`: a full group, where its voltage tells; `is_open`: plug and lead are off from a list before; `stays_open`: they
    stay off for a list after. `worth_testing`: groups whose cells are; `waste`: kinds of it. `strings`: strings side by side that the groups make, numbered through, with cross
    links at the taps `cross` of the first.
    """

    volts: Sequence[float]
    cells: Mapping[int, Sequence[str]]
    sides: Mapping[int, str]
    work: WorkKind
    groups: Sequence[int] = ()
    soldered: bool = False
    spots: Sequence[tuple[str, Sequence[str]]] = ()
    wires: Sequence[PinWire] = ()
    wanted: Mapping[int, int | None] = field(default_factory=dict)
    pin_v: float = 0.05
    cool_min: float = 5.0
    cure_min: float = 120.0
    wired: bool = True
    new_cells: bool = False
    new_block: bool = False
    unread: frozenset[int] = frozenset()
    spread_v: float = 0.6
    parts: Sequence[PackPart] = ()
    pouch: bool = False
    aluminium: Pole = "positive"
    glued: str = ""
    has_board: bool = True
    harness: bool = False
    new_housing: bool = False
    full_v: float | None = None
    night_h: float = 12.0
    is_open: bool = False
    stays_open: bool = False
    worth_testing: Sequence[int] = ()
    waste: Sequence[Waste] = ()
    strings: int = 1
    cross: Sequence[int] = ()

    @property
    def series(self) -> int:
        """Groups in series; of strings side by side, those of all of them."""
        return len(self.volts)

    @property
    def in_string(self) -> int:
        """Groups between the ends."""
        return self.series // self.strings

    def shown_tap(self, tap: int, group: int) -> int:
        """The tap that a strip or wire at one end of a group is called by: the minus of a later string is the pack's own."""
        return 0 if self.strings > 1 and tap < group and tap % self.in_string == 0 else tap

    @property
    def plugged(self) -> bool:
        """Whether a plug parts its balance wires from a board."""
        return self.wired and self.has_board

    def at(self, tap: int) -> float:
        """Volts of a tap against pack minus: of its own string, where there are several."""
        low = (max(tap, 1) - 1) // self.in_string * self.in_string
        return sum(self.volts[low:tap])


class Bare:
    """What of the string lies bare: which taps, and where it is cut through."""

    def __init__(self, case: BuildCase) -> None:
        self.case = case
        self.taps = set(range(case.series + 1))
        self.cut: set[int] = set()

    def exposed(self) -> float:
        """The largest voltage between two bare points that hang together."""
        most, each = 0.0, self.case.in_string
        for base in range(0, self.case.series, each):
            ends = [base, *sorted(t for t in self.cut if base < t < base + each), base + each]
            for low, high in itertools.pairwise(ends):
                held = [0.0 if t == base else self.case.at(t) for t in self.taps if low <= t <= high]
                most = max(most, max(held) - min(held)) if held else most
        return most


# Between two joints of an iron on a cell (two seconds each at most), minutes.
PAUSE_MIN = 1.0


def key(code: StepCode, *about: object) -> str:
    """What a step is known by: its code, and what it is about, as typed or numbered."""
    return ":".join((code, *(str(one) for one in about)))


def apart(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """The plug out, the main lead off: nothing but the string itself is live then."""
    if case.is_open:
        return
    if case.plugged:
        yield WorkStep(
            key=key("plug_out"), joint=words.BALANCE_PLUG, do="pull", exposed_v=rounded_v(bare.exposed()), because=words.BOARD_LETS_GO,
            insulate=[words.PINS_OF_PLUG],
        )  # fmt: skip
    yield WorkStep(
        key=key("lead_off", "minus"), joint=words.main_lead("minus"), do="take_off", exposed_v=rounded_v(bare.exposed()), insulate=[words.END_OF_LEAD, words.POLE_IT_CAME],
        because=words.NO_CURRENT_FLOWS_THROUGH if case.has_board else words.NO_CURRENT_FLOWS, tool=IRON, taps=[0],
    )  # fmt: skip
    yield from freed(case, bare, OVER_BLOCK)


def freed(case: BuildCase, bare: Bare, kinds: Sequence[PartKind]) -> Iterator[WorkStep]:
    """Parts taken off, kind by kind: what is kept is laid aside, what is used up is thrown away."""
    for kind in kinds:
        for part in (p for p in case.parts if p.part == kind):
            yield WorkStep(
                key=part_key("part_off", part), joint=words.the_part(part), do="take_off" if part.is_new else "lay_aside", exposed_v=rounded_v(bare.exposed()),
                because=words.NEW_ONE_GOES_IN if part.is_new else words.IT_GOES_BACK,
            )  # fmt: skip


def part_key(code: StepCode, part: PackPart, *more: str) -> str:
    """The key of a step about a part: by what it is, its own name and where it sits."""
    return key(code, part.part, *more, *(typed for typed in (part.name.strip(), part.where.strip()) if typed))


def put_back(case: BuildCase, exposed_v: float, kinds: Sequence[PartKind]) -> Iterator[WorkStep]:
    """Parts put where they were, kind by kind, the old one or a new one; glue has to cure."""
    for kind in kinds:
        for part in (p for p in case.parts if p.part == kind):
            yield WorkStep(
                key=part_key("part_in", part, "new" if part.is_new else "old"), joint=words.part_back(part), do="put", exposed_v=rounded_v(exposed_v), because=words.part_because(part),
                wait=Wait(kind="cure", minutes=case.cure_min) if part.part == "glue" else None,
            )  # fmt: skip


def fixed(case: BuildCase, exposed_v: float) -> Iterator[WorkStep]:
    """What holds cells and wires: the glue that is told, else as it was; and the time it takes to cure."""
    if any(part.part == "glue" for part in case.parts):
        yield from put_back(case, exposed_v, ("glue",))
        return
    yield WorkStep(
        key=key("fix"), joint=words.CELLS_AND_WIRES_WHERE, do="fix", exposed_v=rounded_v(exposed_v), because=words.NEUTRAL_SILICONE_OR_FISH,
        wait=Wait(kind="cure", minutes=case.cure_min),
    )  # fmt: skip


def to_hold(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """What must hold before the first joint: every new cell read in its place, and a coupon of the day where it is welded."""
    yield WorkStep(
        key=key("polarity"), joint=words.POLARITY_RUN, do="read", exposed_v=rounded_v(bare.exposed()), because=words.EACH_CELL_ON_MAP, wants="polarity",
    )  # fmt: skip
    if not case.soldered:
        yield WorkStep(
            key=key("coupon"), joint=words.COUPON_OF_DAY, do="pull", exposed_v=rounded_v(bare.exposed()), because=words.SETTING_HOLDS_ONE_DAY, wants="coupon",
        )  # fmt: skip


def bedded(bare: Bare, sensor: str, cells: Sequence[str], called: str | None = None) -> WorkStep:
    """The step that puts a temperature sensor back where it was, by name, between its cells; `called`: what the list calls it."""
    return WorkStep(
        key=key("sensor_in", sensor, *cells), joint=words.sensor_against(called or sensor, named(cells)), do="bed", exposed_v=rounded_v(bare.exposed()), cells=list(cells),
        because=words.SENSOR_THAT_HANGS_FREE,
    )  # fmt: skip


def pin_to_read(case: BuildCase, tap: int) -> Ask:
    """What a pin must read against pack minus once its tap is joined, V."""
    return Ask(what=words.black_on_pack_minus(tap), expected_v=rounded_v(case.at(tap)), within_v=within(case, tap))


def within(case: BuildCase, tap: int) -> float:
    """What a pin may be off: the shop's tolerance, which adds up over the groups below as their errors do."""
    low = (max(tap, 1) - 1) // case.in_string * case.in_string
    return round(
        case.pin_v * math.sqrt(max(tap - low, 1)) + case.spread_v * sum(low < g <= tap for g in case.unread), 3
    )


def named(cells: Sequence[str]) -> str:
    """Cells by their labels, as a step names them."""
    return ", ".join(cells[:6]) + (words.more_cells_count(len(cells)) if len(cells) > 6 else "")


def rounded_v(volts: float) -> float:
    """Volts to a hundredth, as a step tells them."""
    return round(volts, 3)

"""Work lists generated from the map and the repair that was chosen: one action a step, with what lies bare after it."""

import itertools
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.join.order import Joint, TakeDownRequest, take_down
from saldatura.battery.join.wiring import Move, PinWire, moves
from saldatura.battery.quantities import Value, Volts, number_words

WorkKind = Literal["rebuild", "groups", "donor", "drop_group", "transplant", "repin", "board_mounted"]
ListName = Literal["open", "close", "groups", "donor", "drop_group", "transplant", "repin", "board_mounted"]
WaitKind = Literal["cure", "cool"]

TITLES: dict[ListName, str] = {
    "open": "Take down", "close": "Build up", "groups": "Replace a group", "donor": "Put donor cells in", "drop_group": "Leave a group out",
    "transplant": "Move to another board", "repin": "Pin the connector anew", "board_mounted": "Cells on a board",
}  # fmt: skip
# Between two joints of an iron on a cell (two seconds each at most), minutes.
PAUSE_MIN = 1.0
# The step by which a group is out of the string.
LAST_OF_DROP = "charger and board to {} in series"
CUTTERS = "Ceramic or insulated cutters, one strip at a time; glasses on, nothing metal on the hands."
IRON = "The iron touches this one joint; two seconds at most, then a pause."
ELECTRODES = "Both electrodes on this strip only; cover what lies beside it, sparks fly."


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
    it, so that all must stand right; `taps` and `cells`: where on the map. What it makes of the pack once it is ticked: `puts_in`, groups
    whose new cells are in; `leaves_out`, the group that is out of the string; `puts_board`, another board is in.
    """

    joint: str = Field(description="Name of the joint.")
    do: str = Field(description="What is done to the joint.")
    exposed_v: float = Field(description="Largest voltage between two points that are bare after the step, V.")
    insulate: list[str] = Field([], description="What is covered before the next step.")
    because: str = Field(description="Why, in a technician's words.")
    tool: str = Field("", description="What stops the tool, in a sentence; None where it cannot be said.")
    asks: Ask | None = None
    wait: Wait | None = None
    joins: bool = False
    taps: list[int] = Field([], description="Numbers of the two taps.")
    cells: list[str] = []
    puts_in: list[int] = []
    leaves_out: int | None = None
    puts_board: bool = False


class Steps(Value):
    """A list in its order; `peak_v` is the largest voltage bare after any step, `before_v` before the first."""

    name: ListName = Field(description="Which it is.")
    title: str
    steps: list[WorkStep]
    peak_v: float = Field(description="Largest voltage bare after any step, V.")
    before_v: float = Field(description="Voltage that lies bare before the first step, V.")


@dataclass(frozen=True)
class Case:
    """What a list is generated from. `volts` by group from minus; `cells` by group; `sides` by tap: where its strip lies; `spots`:
    each sensor with the cells it is bedded against; `wires`: the pins of the balance connector; `wanted`: the tap each pin should
    have, where the connector is pinned anew; `wired`: it has balance wires; `new_cells`: a rebuild that puts others in; `new_block`: another block comes under the board;
    `unread`: groups of which nobody knows what they read, each of which may lie `spread_v` off.
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

    @property
    def series(self) -> int:
        """Groups in series."""
        return len(self.volts)

    def at(self, tap: int) -> float:
        """Volts of a tap against pack minus."""
        return sum(self.volts[:tap])


class Bare:
    """What of the string lies bare: which taps, and where it is cut through."""

    def __init__(self, case: Case) -> None:
        self.case = case
        self.taps = set(range(case.series + 1))
        self.cut: set[int] = set()

    def exposed(self) -> float:
        """The largest voltage between two bare points that hang together."""
        ends = [0, *sorted(self.cut - {0, self.case.series}), self.case.series]
        most = 0.0
        for low, high in itertools.pairwise(ends):
            held = [self.case.at(t) for t in self.taps if low <= t <= high]
            most = max(most, max(held) - min(held)) if held else most
        return most


def work_lists(case: Case) -> list[Steps]:
    """The lists of a repair: taking down and building up for a rebuild, one list for any other.

    Raises Impossible where the repair names no group, or one that is not there.
    """
    if case.work == "rebuild":
        return [_whole(case, "open"), _whole(case, "close")]
    if case.work in ("groups", "donor", "drop_group", "board_mounted"):
        _groups_there(case)
    bare = Bare(case)
    before = bare.exposed()
    steps = list(MAKERS[case.work](case, bare))
    return [
        Steps(
            name=case.work, title=TITLES[case.work], steps=steps, peak_v=max((s.exposed_v for s in steps), default=0.0),
            before_v=round(before, 4),
        )
    ]  # fmt: skip


def _groups_there(case: Case) -> None:
    if not case.groups:
        raise Impossible("work_groups", f"say which group, 1 to {case.series}, this list is for")
    beyond = next((g for g in case.groups if g > case.series), None)
    if beyond is not None:
        raise Impossible("work_groups", f"there is no group {beyond}; the pack has {case.series} in series")
    if case.work == "drop_group" and len(case.groups) > 1:
        raise Impossible("work_groups", "one group is left out at a time; name one")
    if case.work == "drop_group" and case.series < 2:
        raise Impossible("work_groups", "the only group of a pack cannot be left out")


# --- the whole block


def _whole(case: Case, aim: Literal["open", "close"]) -> Steps:
    """Every strip, lead and wire, in the order of `take-down`."""
    joints = [Joint(joint=f"strip {tap}", tap=tap, kind="link") for tap in range(1, case.series)]
    joints += [
        Joint(joint="main lead −", tap=0, kind="lead"),
        Joint(joint="main lead +", tap=case.series, kind="lead"),
    ]
    joints += [
        Joint(joint=f"balance wire {tap}", tap=tap, kind="sense") for tap in range(case.series + 1) if case.wired
    ]
    found = take_down(TakeDownRequest(series=case.series, group_v=max(max(case.volts), 0.1), joints=joints, aim=aim))
    tap_of = {j.joint: j.tap for j in joints}
    steps = [_new_cells(case)] if aim == "close" and case.new_cells else []
    last = next((s.joint for s in reversed(found.steps) if s.joint.startswith("strip")), None)
    for step in found.steps:
        tap, link = tap_of[step.joint], step.joint.startswith("strip")
        closing = aim == "close"
        asks = _pin(case, tap) if closing and step.joint.startswith("balance") and tap else None
        if closing and step.joint == "main lead +":
            asks = Ask(
                what="black on the minus lead, red on the plus lead",
                expected_v=_v(case.at(tap)),
                within_v=_within(case, tap),
            )
        waits = closing and link and (case.soldered or step.joint == last)
        steps.append(
            WorkStep(
                joint=step.joint,
                do=("solder" if case.soldered else "weld") if closing and link else step.do,
                exposed_v=step.exposed_v,
                insulate=step.insulate,
                because=step.because,
                tool=_tool(case, closing, link),
                asks=asks,
                wait=Wait(kind="cool", minutes=PAUSE_MIN if step.joint != last else case.cool_min) if waits else None,
                joins=closing and link,
                taps=[tap],
            )
        )  # fmt: skip
    return Steps(name=aim, title=TITLES[aim], steps=steps, peak_v=found.peak_v, before_v=found.before_v)


def _new_cells(case: Case) -> WorkStep:
    """The cells are in: what was read of the old ones is of cells that are gone."""
    return WorkStep(
        joint="the new cells in their places", do="set", exposed_v=0.0, puts_in=list(range(1, case.series + 1)),
        because="Each with a ring on its plus end, as the map has them. Their polarity is read in place before anything is joined.",
    )  # fmt: skip


def _tool(case: Case, closing: bool, link: bool) -> str:
    if not link:
        return IRON
    return (IRON if case.soldered else ELECTRODES) if closing else CUTTERS


# --- some groups


def _replace(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """Groups taken out and others put in; each run of neighbours by itself, the rest of the block under cover."""
    yield from _apart(case, bare)
    for run in _runs(case.groups):
        yield from _out(case, bare, run)
        yield from _in(case, bare, run)
    yield from _together(case, bare, sorted({t for g in case.groups for t in (g - 1, g)}))


def _drop(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """A group taken out and its gap bridged; the connector pinned anew, the charger for one group fewer."""
    group = case.groups[0]
    yield from _apart(case, bare)
    yield from _out(case, bare, [group])
    gone = group - 1 if group == 1 else group
    left = [v for k, v in enumerate(case.volts, start=1) if k != group]
    kept = 1 if group == 1 else group - 1
    if 1 < group < case.series:
        yield WorkStep(
            joint=f"a bridge from tap {group - 1} to tap {group}", do=_join_word(case), exposed_v=0.0, joins=True,
            because=f"It carries the whole current in place of group {group}: as wide and as many layers as the strips beside it.",
            tool=IRON if case.soldered else ELECTRODES, taps=[group - 1, group], wait=Wait(kind="cool", minutes=case.cool_min),
        )  # fmt: skip
    else:
        end = "−" if group == 1 else "+"
        yield WorkStep(
            joint=f"main lead {end}, to what is now the end", do="move", exposed_v=0.0,
            because=f"Group {group} stood at the end: the pack now ends at tap {kept}.", tool=IRON, taps=[kept],
        )  # fmt: skip
    below = case.at(kept) - (case.volts[0] if group == 1 else 0.0)
    if case.wired:
        yield WorkStep(
            joint=f"balance wire {kept} back on", do="put", exposed_v=0.0, insulate=["the joint"], taps=[kept], tool=IRON,
            because=f"The wire of tap {gone} stays off: where group {group} stood there is one tap now.",
            asks=Ask(what="black on pack minus, red on the joint", expected_v=_v(below), within_v=_within(case, kept)),
        )  # fmt: skip
        yield from _pinned(case, bare, _without(case, gone), group)
    total = sum(left)
    yield WorkStep(
        joint="main leads and the plug" if case.wired else "main leads", do="join", exposed_v=_v(total), taps=[0, case.series], tool=IRON,
        because="The lead of the pack's own end first" + (", the balance plug last of all, with every pin read." if case.wired else "."),
        asks=Ask(what="black on the minus lead, red on the plus lead", expected_v=_v(total), within_v=_within(case, len(left))),
    )  # fmt: skip
    yield WorkStep(
        joint=LAST_OF_DROP.format(len(left)), do="set", exposed_v=_v(total), leaves_out=group,
        because=f"The old end voltage, for {case.series} groups, would overcharge those that are left. The device must run on {total:.1f} V, and its cut-off be met.",
    )  # fmt: skip


def _apart(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """The plug out, the main lead off: nothing but the string itself is live then."""
    if case.wired:
        yield WorkStep(
            joint="the balance plug", do="pull", exposed_v=_v(bare.exposed()), because="The board lets go of every tap at once.",
            insulate=["the plug's pins"],
        )  # fmt: skip
    yield WorkStep(
        joint="main lead −", do="take off", exposed_v=_v(bare.exposed()), insulate=["the end of the lead", "the pole it came from"],
        because="No current flows through the board or the device from here on.", tool=IRON, taps=[0],
    )  # fmt: skip


def _out(case: Case, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """A run of groups lifted out: only its own taps bare, cut where the least is left, then the cells."""
    low, high = run[0] - 1, run[-1]
    taps = list(range(low, high + 1))
    bare.taps = set(taps)
    yield WorkStep(
        joint=f"everything but the strips of taps {number_words(taps)}", do="cover", exposed_v=_v(bare.exposed()), taps=taps,
        because=f"What stays bare then carries {bare.exposed():.1f} V instead of {case.at(case.series):.1f} V.",
    )  # fmt: skip
    for tap in taps if case.wired else []:
        yield WorkStep(
            joint=f"balance wire {tap}", do="take off", exposed_v=_v(bare.exposed()), insulate=["its end, before the next wire"], tool=IRON,
            because="One wire at a time: two bare ends that touch burn.", taps=[tap],
        )  # fmt: skip
    for tap in _least(case, bare, taps):
        bare.cut.add(tap)
        end = tap in (0, case.series)
        yield WorkStep(
            joint=f"strip {tap}", do="cut", exposed_v=_v(bare.exposed()), insulate=["both ends of the cut"], tool=CUTTERS, taps=[tap],
            because=f"The pack's end comes away from group {run[0] if tap == low else run[-1]}." if end else f"At tap {tap}, on the {case.sides[tap]} side as seen from above: {bare.exposed():.1f} V is the most that is bare after it.",
        )  # fmt: skip
    for group in run:
        yield WorkStep(
            joint=f"group {group}, {_named(case.cells[group])}", do="lift out", exposed_v=_v(bare.exposed()), cells=list(case.cells[group]),
            because="Cut, do not tear: a torn can leaks. The cells are live; cover their ends before they are laid down.",
            insulate=["both ends of each cell"],
        )  # fmt: skip


def _in(case: Case, bare: Bare, run: Sequence[int]) -> Iterator[WorkStep]:
    """Cells put in for a run of groups, and joined to what stands beside them, the least voltage first."""
    low, high = run[0] - 1, run[-1]
    for group in run:
        which = "the donor cell" if case.work == "donor" else "a cell with a ring on its plus end"
        for place in case.cells[group]:
            first = place == case.cells[group][0]
            yield WorkStep(
                joint=f"{which} in the place of {place}", do="set", exposed_v=_v(bare.exposed()), cells=[place], puts_in=[group] if first else [],
                because="Ring on the plus end first. Its polarity is read in place on the map before anything is joined.",
            )  # fmt: skip
    order = list(reversed(_least(case, Bare(case), list(range(low, high + 1)))))
    for n, tap in enumerate(order):
        bare.cut.discard(tap)
        yield WorkStep(
            joint=f"the new strip of tap {tap}", do=_join_word(case), exposed_v=_v(bare.exposed()), insulate=[f"the strip of tap {tap}"], taps=[tap],
            because="The halves come together last, as they were cut first." if n == len(order) - 1 else "While little hangs together, little can be shorted.",
            tool=IRON if case.soldered else ELECTRODES, joins=True,
            wait=Wait(kind="cool", minutes=case.cool_min) if n == len(order) - 1 else Wait(kind="cool", minutes=PAUSE_MIN) if case.soldered else None,
        )  # fmt: skip


def _together(case: Case, bare: Bare, taps: Sequence[int]) -> Iterator[WorkStep]:
    """Wires back on their taps with a reading each, sensors, what holds it, the lead, and the plug last."""
    bare.taps = set(taps)
    for tap in taps if case.wired else []:
        yield WorkStep(
            joint=f"balance wire {tap} back on", do="put", exposed_v=_v(bare.exposed()), insulate=["the joint"], taps=[tap], tool=IRON,
            because="Read its pin before the next." if tap else "Pin 0 is what every other is read against.", asks=_pin(case, tap) if tap else None,
        )  # fmt: skip
    groups = {c for g in case.groups for c in case.cells[g]}
    for sensor, cells in case.spots:
        if groups & set(cells):
            yield _bedded(bare, sensor, cells)
    yield WorkStep(
        joint="cells and wires where they were fixed", do="fix", exposed_v=_v(bare.exposed()), because="Neutral silicone or fish paper and tape as before: what moves, breaks.",
        wait=Wait(kind="cure", minutes=case.cure_min),
    )  # fmt: skip
    total = case.at(case.series)
    yield WorkStep(
        joint="main lead − back on", do="put", exposed_v=_v(total), insulate=["the joint"], tool=IRON, taps=[0],
        because="The pack's own lead after its string is whole and read.",
        asks=Ask(what="black on the minus lead, red on the plus lead", expected_v=_v(total), within_v=_within(case, case.series)),
    )  # fmt: skip
    if case.wired:
        yield WorkStep(
            joint="the balance plug back in", do="push", exposed_v=_v(total), because="Last of all: every pin is read by now.",
        )  # fmt: skip


def _bedded(bare: Bare, sensor: str, cells: Sequence[str]) -> WorkStep:
    return WorkStep(
        joint=f"{sensor} against {_named(cells)}", do="bed", exposed_v=_v(bare.exposed()), cells=list(cells),
        because="A sensor that hangs free tells the board the air, not the cell. Read its ohms in Measures when it is in.",
    )  # fmt: skip


# --- the board, the connector, cells on a board


def _transplant(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """Wires, sensors and leads from one board to another, one at a time, minus first on building."""
    taps = range(case.series + 1 if case.wired else 0)
    yield from _apart(case, bare)
    yield WorkStep(
        joint="all strips", do="cover", exposed_v=0.0, because="Only the wire in hand is bare while the board changes.", insulate=["both sides of the block"],
    )  # fmt: skip
    bare.taps = set()
    for tap in reversed(taps):
        yield WorkStep(
            joint=f"balance wire {tap} of the old board", do="take off", exposed_v=0.0, tool=IRON, taps=[tap],
            because=f"Its end carries {case.at(tap):.1f} V against pack minus; covered, it meets nothing.", insulate=["its end, before the next wire"],
        )  # fmt: skip
    for sensor, cells in case.spots:
        yield WorkStep(
            joint=f"{sensor}", do="free", exposed_v=0.0, cells=list(cells), because=f"It sits against {_named(cells)} and goes back there; a copy without it has no temperature cut-off.",
        )  # fmt: skip
    if case.new_block:
        yield WorkStep(
            joint="the other block under the board", do="set in", exposed_v=0.0, because="Its own cells are read at the pins from here on, not those that came out.",
            insulate=["between board and cells"], puts_in=list(range(1, case.series + 1)),
        )  # fmt: skip
    else:
        yield WorkStep(joint="the other board", do="set in", exposed_v=0.0, because="Nothing of it touches a strip or a can: paper beneath it.", insulate=["between board and cells"], puts_board=True)  # fmt: skip
    for sensor, cells in case.spots:
        yield _bedded(bare, f"{sensor} of the other board", cells)
    for tap in taps:
        yield WorkStep(
            joint=f"balance wire {tap} to the other board", do="join", exposed_v=_v(case.at(tap)), tool=IRON, taps=[tap],
            because="Minus first, then upward: a board fed from the middle can be lost." if tap == 0 else "Its pad is read before the next wire is bared.",
            asks=_pin(case, tap) if tap else None, insulate=["the joint"],
        )  # fmt: skip
    total = case.at(case.series)
    yield WorkStep(
        joint="main leads to the other board", do="join", exposed_v=_v(total), tool=IRON, taps=[0, case.series], because="Last: now the board is awake. Some wake only on a charger.",
        asks=Ask(what="black on the minus lead, red on the plus lead", expected_v=_v(total), within_v=_within(case, case.series)),
    )  # fmt: skip


def _repin(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """Wires of the connector moved one at a time, each read in its new pin."""
    yield from _pinned(case, bare, dict(case.wanted), None)


def _pinned(case: Case, bare: Bare, wanted: Mapping[int, int | None], gone: int | None) -> Iterator[WorkStep]:
    """`gone`: a group that hangs in the string no longer, so that taps above it lie lower by its volts."""
    found = moves(case.wires, wanted)
    lost = 0.0 if gone is None else case.volts[gone - 1]
    bare.taps = set()
    for move in found:
        volts = case.at(move.tap) - (lost if gone is not None and move.tap >= gone else 0.0)
        if gone is not None and move.to is None and not move.parked:
            volts = 0.0  # it hangs on nothing any more
        yield _moved(case, move, volts)
    if not found:
        yield WorkStep(joint="every pin", do="leave", exposed_v=0.0, because="Each wire sits where it belongs already.")


def _moved(case: Case, move: Move, volts: float) -> WorkStep:
    wire = f"the {move.wire} wire" if move.wire else f"the wire of tap {move.tap}"
    if move.to is None:
        why = "It waits for its pin, covered." if move.parked else "No pin wants it: cover its end and tie it back."
        return WorkStep(
            joint=f"{wire} out of pin {move.pin}", do="take", exposed_v=_v(volts), because=why, insulate=["its end at once"], taps=[move.tap],
            tool="One contact out of the housing at a time.",
        )  # fmt: skip
    return WorkStep(
        joint=f"{wire} from pin {move.pin} to pin {move.to}", do="move", exposed_v=_v(volts), taps=[move.tap],
        because="One wire at a time: while one is out, nothing else is bare.", tool="One contact out of the housing at a time.",
        asks=Ask(what=f"black on pack minus, red on pin {move.to}", expected_v=_v(volts), within_v=_within(case, move.tap)),
    )  # fmt: skip


def _without(case: Case, gone: int) -> dict[int, int | None]:
    """The pins once the wire of one tap is left out: all above it move down by one."""
    taps = [t for t in range(case.series + 1) if t != gone]
    pins = sorted(p.pin for p in case.wires if p.tap is not None)
    return {pin: taps[k] if k < len(taps) else None for k, pin in enumerate(pins)}


def _board_mounted(case: Case, bare: Bare) -> Iterator[WorkStep]:
    """Cells that stand on a board by their legs: both legs at once with two irons, and every leg live."""
    bare.taps = set()
    for group in case.groups:
        volts = abs(case.volts[group - 1])
        for cell in case.cells[group]:
            yield WorkStep(
                joint=f"every pad but those of {cell}", do="cover", exposed_v=_v(volts), cells=[cell],
                because="The tracks beside it are at other taps; solder that runs bridges them.",
            )  # fmt: skip
            yield WorkStep(
                joint=f"{cell} off the board, an iron on each leg", do="lift", exposed_v=_v(volts), cells=[cell], insulate=[f"both legs of {cell}, one after the other"],
                because=f"Both legs come free together. They stay live, {volts:.1f} V: do not let them meet, nor rest on the board.",
                tool="Two irons, two seconds; no tweezers across the legs.", wait=Wait(kind="cool", minutes=PAUSE_MIN),
            )  # fmt: skip
    for group in case.groups:
        for cell in case.cells[group]:
            yield WorkStep(
                joint=f"the minus leg of the new {cell}", do="solder", exposed_v=_v(abs(case.volts[group - 1])), cells=[cell], joins=True, puts_in=[group] if cell == case.cells[group][0] else [],
                because="Its plus leg stays covered meanwhile. Bend legs away from the cell's seal.", tool=IRON, wait=Wait(kind="cool", minutes=PAUSE_MIN),
            )  # fmt: skip
            yield WorkStep(
                joint=f"the plus leg of the new {cell}", do="solder", exposed_v=_v(abs(case.volts[group - 1])), cells=[cell], joins=True,
                because="Then read it at its pads.", tool=IRON, wait=Wait(kind="cool", minutes=PAUSE_MIN),
                asks=Ask(what=f"black on the minus pad of {cell}, red on its plus pad", expected_v=_v(case.volts[group - 1]), within_v=case.pin_v),
            )  # fmt: skip


MAKERS = {
    "groups": _replace, "donor": _replace, "drop_group": _drop, "transplant": _transplant, "repin": _repin, "board_mounted": _board_mounted,
}  # fmt: skip


# --- small things


def _least(case: Case, bare: Bare, taps: Iterable[int]) -> list[int]:
    """Cuts in the order that leaves the least bare after each, the lower tap first where it is the same."""
    left, order = list(taps), []
    trial = Bare(case)
    trial.taps, trial.cut = set(left) & bare.taps or set(left), set(bare.cut)

    def after(tap: int) -> float:
        was, trial.cut = trial.cut, trial.cut | {tap}
        most = trial.exposed()
        trial.cut = was
        return round(most, 6)

    while left:
        tap = min(left, key=lambda t: (after(t), t))
        trial.cut.add(tap)
        order.append(tap)
        left.remove(tap)
    return order


def _runs(groups: Sequence[int]) -> list[list[int]]:
    runs: list[list[int]] = []
    for group in sorted(set(groups)):
        if runs and runs[-1][-1] == group - 1:
            runs[-1].append(group)
        else:
            runs.append([group])
    return runs


def _pin(case: Case, tap: int) -> Ask:
    return Ask(what=f"black on pack minus, red on pin {tap}", expected_v=_v(case.at(tap)), within_v=_within(case, tap))


def _within(case: Case, tap: int) -> float:
    """What a pin may be off: the shop's tolerance, which adds up over the groups below as their errors do."""
    return round(case.pin_v * math.sqrt(max(tap, 1)) + case.spread_v * sum(g <= tap for g in case.unread), 3)


def _join_word(case: Case) -> str:
    return "solder" if case.soldered else "weld"


def _named(cells: Sequence[str]) -> str:
    return ", ".join(cells[:6]) + (f" and {len(cells) - 6} more" if len(cells) > 6 else "")


def _v(volts: float) -> float:
    return round(volts, 3)

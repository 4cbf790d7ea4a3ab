"""Steps that move wires and boards: re-pinning, transplanting, a board mounted on the cells."""

from collections.abc import Iterator, Mapping

from saldatura.battery.join.steps import (
    IRON,
    PAUSE_MIN,
    Ask,
    Bare,
    BuildCase,
    Wait,
    WorkStep,
    apart,
    bedded,
    named,
    pin_to_read,
    rounded_v,
    within,
)
from saldatura.battery.join.wiring import Move, moves


def transplant(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Wires, sensors and leads from one board to another, one at a time, minus first on building."""
    taps = range(case.series + 1 if case.wired else 0)
    yield from apart(case, bare)
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
            joint=f"{sensor}", do="free", exposed_v=0.0, cells=list(cells), because=f"It sits against {named(cells)} and goes back there; a copy without it has no temperature cut-off.",
        )  # fmt: skip
    if case.new_block:
        yield WorkStep(
            joint="the other block under the board", do="set in", exposed_v=0.0, because="Its own cells are read at the pins from here on, not those that came out.",
            insulate=["between board and cells"], puts_in=list(range(1, case.series + 1)),
        )  # fmt: skip
    else:
        yield WorkStep(joint="the other board", do="set in", exposed_v=0.0, because="Nothing of it touches a strip or a can: paper beneath it.", insulate=["between board and cells"], puts_board=True)  # fmt: skip
    for sensor, cells in case.spots:
        yield bedded(bare, f"{sensor} of the other board", cells)
    for tap in taps:
        yield WorkStep(
            joint=f"balance wire {tap} to the other board", do="join", exposed_v=rounded_v(case.at(tap)), tool=IRON, taps=[tap],
            because="Minus first, then upward: a board fed from the middle can be lost." if tap == 0 else "Its pad is read before the next wire is bared.",
            asks=pin_to_read(case, tap) if tap else None, insulate=["the joint"],
        )  # fmt: skip
    total = case.at(case.series)
    yield WorkStep(
        joint="main leads to the other board", do="join", exposed_v=rounded_v(total), tool=IRON, taps=[0, case.series], because="Last: now the board is awake. Some wake only on a charger.",
        asks=Ask(what="black on the minus lead, red on the plus lead", expected_v=rounded_v(total), within_v=within(case, case.series)),
    )  # fmt: skip


def repin(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Wires of the connector moved one at a time, each read in its new pin."""
    yield from pinned(case, bare, dict(case.wanted), None)


def pinned(case: BuildCase, bare: Bare, wanted: Mapping[int, int | None], gone: int | None) -> Iterator[WorkStep]:
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


def _moved(case: BuildCase, move: Move, volts: float) -> WorkStep:
    wire = f"the {move.wire} wire" if move.wire else f"the wire of tap {move.tap}"
    if move.to is None:
        why = "It waits for its pin, covered." if move.parked else "No pin wants it: cover its end and tie it back."
        return WorkStep(
            joint=f"{wire} out of pin {move.pin}", do="take", exposed_v=rounded_v(volts), because=why, insulate=["its end at once"], taps=[move.tap],
            tool="One contact out of the housing at a time.",
        )  # fmt: skip
    return WorkStep(
        joint=f"{wire} from pin {move.pin} to pin {move.to}", do="move", exposed_v=rounded_v(volts), taps=[move.tap],
        because="One wire at a time: while one is out, nothing else is bare.", tool="One contact out of the housing at a time.",
        asks=Ask(what=f"black on pack minus, red on pin {move.to}", expected_v=rounded_v(volts), within_v=within(case, move.tap)),
    )  # fmt: skip


def without(case: BuildCase, gone: int) -> dict[int, int | None]:
    """The pins once the wire of one tap is left out: all above it move down by one."""
    taps = [t for t in range(case.series + 1) if t != gone]
    pins = sorted(p.pin for p in case.wires if p.tap is not None)
    return {pin: taps[k] if k < len(taps) else None for k, pin in enumerate(pins)}


def board_mounted(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Cells that stand on a board by their legs: both legs at once with two irons, and every leg live."""
    bare.taps = set()
    for group in case.groups:
        volts = abs(case.volts[group - 1])
        for cell in case.cells[group]:
            yield WorkStep(
                joint=f"every pad but those of {cell}", do="cover", exposed_v=rounded_v(volts), cells=[cell],
                because="The tracks beside it are at other taps; solder that runs bridges them.",
            )  # fmt: skip
            yield WorkStep(
                joint=f"{cell} off the board, an iron on each leg", do="lift", exposed_v=rounded_v(volts), cells=[cell], insulate=[f"both legs of {cell}, one after the other"],
                because=f"Both legs come free together. They stay live, {volts:.1f} V: do not let them meet, nor rest on the board.",
                tool="Two irons, two seconds; no tweezers across the legs.", wait=Wait(kind="cool", minutes=PAUSE_MIN),
            )  # fmt: skip
    for group in case.groups:
        for cell in case.cells[group]:
            yield WorkStep(
                joint=f"the minus leg of the new {cell}", do="solder", exposed_v=rounded_v(abs(case.volts[group - 1])), cells=[cell], joins=True, puts_in=[group] if cell == case.cells[group][0] else [],
                because="Its plus leg stays covered meanwhile. Bend legs away from the cell's seal.", tool=IRON, wait=Wait(kind="cool", minutes=PAUSE_MIN),
            )  # fmt: skip
            yield WorkStep(
                joint=f"the plus leg of the new {cell}", do="solder", exposed_v=rounded_v(abs(case.volts[group - 1])), cells=[cell], joins=True,
                because="Then read it at its pads.", tool=IRON, wait=Wait(kind="cool", minutes=PAUSE_MIN),
                asks=Ask(what=f"black on the minus pad of {cell}, red on its plus pad", expected_v=rounded_v(case.volts[group - 1]), within_v=case.pin_v),
            )  # fmt: skip

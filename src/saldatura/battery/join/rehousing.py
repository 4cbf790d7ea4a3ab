"""Steps that move wires and boards: re-pinning, transplanting, a board mounted on the cells."""

from collections.abc import Iterator, Mapping

from saldatura.battery.join.steps import (
    Ask,
    Bare,
    BuildCase,
    WorkStep,
    apart,
    bedded,
    key,
    named,
    pin_to_read,
    put_back,
    rounded_v,
    within,
)
from saldatura.battery.join.wiring import Move, moves
from saldatura.battery.join.words import rehousing as words
from saldatura.battery.join.words.steps import IRON, JOINT_COVERED


def transplant(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Wires, sensors and leads from one board to another, one at a time, minus first on building."""
    taps = range(case.series + 1 if case.wired else 0)
    yield from apart(case, bare)
    yield WorkStep(
        key=key("cover_strips"), joint=words.ALL_STRIPS, do="cover", exposed_v=0.0, because=words.ONLY_WIRE_IN_HAND, insulate=[words.BOTH_SIDES_OF_BLOCK],
    )  # fmt: skip
    if case.has_board:
        yield WorkStep(
            key=key("old_board_feed"),
            joint=words.FROM_WHICH_GROUPS,
            do="look",
            exposed_v=0.0,
            because=words.ITS_DRAW_BEFORE_CELLS,
        )
    bare.taps = set()
    for tap in reversed(taps):
        yield WorkStep(
            key=key("wire_off", tap), joint=words.balance_wire_of_old(tap), do="take_off", exposed_v=0.0, tool=IRON, taps=[tap],
            because=words.end_carries_against_pack(case.at(tap)), insulate=[words.END_BEFORE_NEXT_WIRE],
        )  # fmt: skip
    for sensor, cells in case.spots:
        yield WorkStep(
            key=key("sensor_off", sensor), joint=sensor, do="free", exposed_v=0.0, cells=list(cells), because=words.sits_against_and_goes(named(cells)),
        )  # fmt: skip
    if case.new_block:
        yield WorkStep(
            key=key("other_block_in"), joint=words.OTHER_BLOCK_UNDER_BOARD, do="set_in", exposed_v=0.0, because=words.OWN_CELLS_ARE_READ,
            insulate=[words.BETWEEN_BOARD_AND_CELLS], puts_in=list(range(1, case.series + 1)),
        )  # fmt: skip
    else:
        yield WorkStep(key=key("board_in"), joint=words.OTHER_BOARD, do="set_in", exposed_v=0.0, because=words.NOTHING_OF_IT_TOUCHES, insulate=[words.BETWEEN_BOARD_AND_CELLS], puts_board=True)  # fmt: skip
    for sensor, cells in case.spots:
        yield bedded(bare, sensor, cells, called=words.other_board(sensor))
    for tap in taps:
        yield WorkStep(
            key=key("wire_on", tap), joint=words.balance_wire_to_other(tap), do="join", exposed_v=rounded_v(case.at(tap)), tool=IRON, taps=[tap],
            because=words.MINUS_FIRST_THEN_UPWARD if tap == 0 else words.PAD_IS_READ_BEFORE,
            asks=pin_to_read(case, tap) if tap else None, insulate=[JOINT_COVERED],
        )  # fmt: skip
    total = case.at(case.series)
    yield from put_back(case, total, ("glue",))
    yield WorkStep(
        key=key("leads_on"), joint=words.MAIN_LEADS_TO_OTHER, do="join", exposed_v=rounded_v(total), tool=IRON, taps=[0, case.series], because=words.LAST_NOW_BOARD,
        asks=Ask(what=words.BLACK_ON_MINUS_LEAD, expected_v=rounded_v(total), within_v=within(case, case.series)),
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
        yield WorkStep(
            key=key("pins_stay"), joint=words.EVERY_PIN, do="leave", exposed_v=0.0, because=words.EACH_WIRE_SITS_WHERE
        )


def _moved(case: BuildCase, move: Move, volts: float) -> WorkStep:
    wire = words.wire_of_colour(move.wire) if move.wire else words.wire_of_tap(move.tap)
    if move.to is None:
        why = words.WAITS_FOR_ITS_PIN if move.parked else words.NO_PIN_WANTS
        return WorkStep(
            key=key("pin_out", move.tap, move.pin), joint=words.out_of_pin(wire, move.pin), do="take", exposed_v=rounded_v(volts), because=why, insulate=[words.END_AT_ONCE], taps=[move.tap],
            tool=words.ONE_CONTACT_OUT,
        )  # fmt: skip
    return WorkStep(
        key=key("pin_move", move.tap, move.pin, move.to), joint=words.pin_to_pin(wire, move.pin, move.to), do="move", exposed_v=rounded_v(volts), taps=[move.tap],
        because=words.ONE_WIRE_AT_TIME, tool=words.ONE_CONTACT_OUT,
        asks=Ask(what=words.black_on_pack_minus(move.to), expected_v=rounded_v(volts), within_v=within(case, move.tap)),
    )  # fmt: skip


def without(case: BuildCase, gone: int) -> dict[int, int | None]:
    """The pins once the wire of one tap is left out: all above it move down by one."""
    taps = [t for t in range(case.series + 1) if t != gone]
    pins = sorted(p.pin for p in case.wires if p.tap is not None)
    return {pin: taps[k] if k < len(taps) else None for k, pin in enumerate(pins)}


def rehoused(case: BuildCase, bare: Bare, gone: int, group: int) -> Iterator[WorkStep]:
    """Every wire that stays from the old housing into a new one with fewer pins, one at a time, from pack minus; `gone`: the tap whose
    wire stays off, `group`: the one that is out of the string.
    """
    bare.taps = set()
    taps = [t for t in range(case.series + 1) if t != gone]
    wire_at = {p.tap: p for p in case.wires if p.tap is not None}
    for pin, tap in enumerate(taps):
        volts = case.at(tap) - (case.volts[group - 1] if tap >= group else 0.0)
        wire = wire_at.get(tap)
        called = words.wire_of_colour(wire.wire) if wire is not None and wire.wire else words.wire_of_tap(tap)
        asks = Ask(what=words.black_on_pack_minus(pin), expected_v=rounded_v(volts), within_v=within(case, tap))
        yield WorkStep(
            key=key("new_housing", tap, pin), joint=words.into_new_housing(called, pin), do="move", exposed_v=rounded_v(volts), taps=[tap], because=words.ONE_WIRE_AT_TIME,
            tool=words.ONE_CONTACT_OUT, asks=asks if pin else None,
        )  # fmt: skip

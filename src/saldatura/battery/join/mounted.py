"""Cells that stand on a board: legs trimmed one at a time, plates cleared and soldered from both sides, every one of them live."""

from collections.abc import Iterator

from saldatura.battery.join.steps import (
    PAUSE_MIN,
    Ask,
    Bare,
    BuildCase,
    Wait,
    WorkStep,
    apart,
    bedded,
    key,
    named,
    put_back,
    rounded_v,
    to_hold,
)
from saldatura.battery.join.words import mounted as words
from saldatura.battery.join.words.steps import IRON


def board_mounted(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """The cells of the named groups off their board, or with all of them a fresh block under it."""
    yield from apart(case, bare)
    bare.taps = set()
    touched = {c for g in case.groups for c in case.cells[g]}
    moved = [(sensor, cells) for sensor, cells in case.spots if touched & set(cells)]
    for sensor, cells in moved:
        yield WorkStep(
            key=key("sensor_off", sensor), joint=sensor, do="free", exposed_v=0.0, cells=list(cells), because=words.sits_against(named(cells)),
        )  # fmt: skip
    for group in case.groups:
        for cell in case.cells[group]:
            yield from _off(case, group, cell)
    yield WorkStep(
        key=key("sheet_in"), joint=words.SHEET_UNDER_BOARD, do="lay", exposed_v=0.0, because=words.LEGS_END_OVER_CANS,
    )  # fmt: skip
    for group in case.groups:
        for cell in case.cells[group]:
            yield WorkStep(
                key=key("cell_in", cell), joint=words.new_cell(cell), do="set", exposed_v=rounded_v(abs(case.volts[group - 1])), cells=[cell],
                puts_in=[group] if cell == case.cells[group][0] else [], because=words.LEGS_THROUGH_HOLES,
            )  # fmt: skip
    yield next(step for step in to_hold(case, bare) if step.wants == "polarity")
    for group in case.groups:
        for cell in case.cells[group]:
            yield from _on(case, group, cell)
    for sensor, cells in moved:
        yield bedded(bare, sensor, cells)
    yield WorkStep(
        key=key("height"), joint=words.HEIGHT_OF_JOINTS, do="look", exposed_v=0.0, because=words.NO_JOINT_HIGHER
    )
    total = case.at(case.series)
    yield from put_back(case, total, ("glue",))
    yield WorkStep(
        key=key("lead_on", "minus"), joint=words.MAIN_LEAD_BACK, do="put", exposed_v=rounded_v(total), taps=[0], tool=IRON, because=words.AFTER_STRING_IS_READ,
    )  # fmt: skip
    if case.plugged:
        yield WorkStep(
            key=key("plug_in"),
            joint=words.BALANCE_PLUG_BACK,
            do="push",
            exposed_v=rounded_v(total),
            because=words.LAST_OF_ALL,
        )


def _off(case: BuildCase, group: int, cell: str) -> Iterator[WorkStep]:
    volts = rounded_v(abs(case.volts[group - 1]))
    yield WorkStep(
        key=key("pads_covered", cell), joint=words.every_pad_but_those(cell), do="cover", exposed_v=volts, cells=[cell], because=words.TRACKS_BESIDE,
    )  # fmt: skip
    for pole in ("plus", "minus"):
        yield WorkStep(
            key=key("leg_cut", pole, cell), joint=words.leg_of(pole, cell), do="trim", exposed_v=volts, cells=[cell], insulate=[words.END_OF_LEG],
            because=words.EACH_LEG_IS_LIVE if pole == "plus" else words.FIRST_IS_COVERED, tool=words.ONE_LEG_IN_CUTTERS,
        )  # fmt: skip
    yield WorkStep(
        key=key("cell_off", cell), joint=words.off_board(cell), do="lift", exposed_v=volts, cells=[cell], insulate=[words.both_legs_of_one(cell)],
        because=words.stays_live(abs(case.volts[group - 1])), wait=Wait(kind="cool", minutes=PAUSE_MIN),
    )  # fmt: skip
    yield WorkStep(
        key=key("holes", cell), joint=words.holes_of(cell), do="clear", exposed_v=0.0, cells=[cell], because=words.FROM_BOTH_SIDES, tool=words.TWO_IRONS,
        wait=Wait(kind="cool", minutes=PAUSE_MIN),
    )  # fmt: skip


def _on(case: BuildCase, group: int, cell: str) -> Iterator[WorkStep]:
    volts = rounded_v(abs(case.volts[group - 1]))
    for pole in ("minus", "plus"):
        for side in ("top", "bottom"):
            last = (pole, side) == ("plus", "bottom")
            asks = Ask(
                what=words.black_on_minus_pad(cell), expected_v=rounded_v(case.volts[group - 1]), within_v=case.pin_v
            )
            yield WorkStep(
                key=key("leg_on", pole, cell, side), joint=words.leg_on_side(pole, cell, words.SIDES[side]), do="solder", exposed_v=volts, cells=[cell], joins=True,
                because=words.THEN_READ if last else words.OTHER_LEG_STAYS_COVERED if pole == "minus" else words.BOTH_SIDES_CARRY,
                tool=IRON, wait=Wait(kind="cool", minutes=PAUSE_MIN), asks=asks if last else None,
            )  # fmt: skip

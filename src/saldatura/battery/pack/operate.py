"""A pack in use: the drive through its board, with the bleeds and the gauge, decided anew every few seconds."""

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.pack.board import Board
from saldatura.battery.pack.build import PackModel
from saldatura.battery.pack.drive import (
    Bleed,
    ConstantCurrent,
    Drive,
    GroupCharger,
    GroupChargers,
    HarnessCharger,
    Rest,
    StringCharger,
)
from saldatura.battery.pack.gauge import Gauge
from saldatura.battery.pack.model import Log, PackState, advance, group_volts

# Between two decisions; a board's own limits are watched at every step.
DECIDES_EVERY_S, WATCHES_EVERY_S = 10.0, 1.0
# With nothing flowing the steps are exact however long; the board's bleed and sleep are looked at between these.
IDLE_S, IDLE_STEP_S = 300.0, 20.0
# Less than a step of the model is left to the next call.
SHORTEST_S = 0.001
HARNESS_WINDOW_V = 0.010
HARNESS_FULL_BLEED_V, HARNESS_BLEEDS_ABOVE = 0.020, 0.85

Ended = Literal["running", "taper", "board"]


@dataclass(frozen=True)
class Rig:
    """A pack with what belongs to it: cells, board (None: cells alone), gauge, and how the last interval went: amps through it (or
    into its groups), volts of each group, amps of the charger on each.
    """

    model: PackModel
    state: PackState
    board: Board | None = None
    gauge: Gauge | None = None
    amps: float = 0.0
    group_v: Array = field(default_factory=lambda: np.zeros(0))
    clip_a: Array = field(default_factory=lambda: np.zeros(0))

    @classmethod
    def at_rest(cls, model: PackModel, board: Board | None = None, ambient_c: float = 25.0) -> "Rig":
        """The pack as built, rested."""
        state = PackState.at_rest(model, ambient_c)
        return cls(
            model, state, board, Gauge.of_model(model), 0.0, group_volts(model, state), np.zeros(model.pack.series)
        )

    @property
    def string_v(self) -> float:
        """Voltage of the string, or of strings side by side, under the last interval's current."""
        if self.model.parted:
            return float(self.group_v[: self.model.pack.in_string].sum())
        return float(self.group_v.sum()) / self.model.pack.strings + self.amps * self.model.links_ohm

    @property
    def terminal_v(self) -> float:
        """What a meter shows at the pack's terminals."""
        if self.model.main_open:
            return 0.0
        return self.string_v if self.board is None or self.amps != 0 else self.board.terminal_v(self.string_v)


def operate(
    bench: Rig,
    drive: Drive,
    seconds: float,
    taper_a: float = 0.0,
    ambient_c: float = 25.0,
    logs: list[Log] | None = None,
) -> tuple[Rig, Ended]:
    """Drive the pack for `seconds`, or until the current has fallen to `taper_a`; the board may cut it any time.

    `logs` collects what each piece gave. Raises Impossible as `advance` does.
    """
    left = seconds
    ended: Ended = "running"
    while left >= SHORTEST_S:
        through = _through(bench, drive)
        watch = bench.board is not None and _restless(bench.board)
        idle = isinstance(through, Rest) and bench.amps == 0
        piece = min(left, WATCHES_EVERY_S if watch and not idle else IDLE_S if idle else DECIDES_EVERY_S)
        before = bench.state.time_s
        bench, log = _piece(bench, through, piece, taper_a, ambient_c)
        if logs is not None:
            logs.append(log)
        left -= float(log.time_s[-1] - before) if len(log.time_s) else piece
        if log.stopped == "taper" or (isinstance(drive, HarnessCharger) and _harness_done(bench, drive, taper_a)):
            return bench, "taper"
        ended = "board" if through != drive else "running"
    return bench, ended


def _piece(bench: Rig, drive: Drive, seconds: float, taper_a: float, ambient_c: float) -> tuple[Rig, Log]:
    model, board = bench.model, bench.board
    step = IDLE_STEP_S if isinstance(drive, Rest) and bench.amps == 0 else 1.0
    dt = seconds / max(round(seconds / step), 1)
    highest, lowest = float(bench.group_v.max()), float(bench.group_v.min())
    high_v, low_v = np.inf, -np.inf
    if board is not None:
        # Stop at the step that passes a limit, so that the board's delay runs from there; past it, go by its own watch.
        high_v = board.limits.over_v if highest <= board.limits.over_v else np.inf
        low_v = board.limits.under_v if lowest >= board.limits.under_v else -np.inf
    bleeds = board.bleeds(bench.group_v, bench.amps) if board is not None else np.zeros(model.pack.series)
    simple = drive
    if isinstance(drive, HarnessCharger):
        bleeds = bleeds + _harness_bleeds(bench, drive)
        simple = ConstantCurrent(amps=_harness_amps(bench, drive))
        taper_a = 0.0
    state, log = advance(
        model, bench.state, simple, seconds, dt, ambient_c, float(high_v), float(low_v), taper_a, bleeds
    )
    amps = float(log.amps[-1]) if len(log.amps) else 0.0
    through = 0.0 if isinstance(drive, GroupCharger | GroupChargers) else amps
    group_v = log.group_v[-1] if len(log.group_v) else bench.group_v
    clip_a = log.clip_a[-1] if len(log.clip_a) else np.zeros(model.pack.series)
    passed = len(log.time_s) * dt
    return replace(
        bench,
        state=state,
        amps=amps,
        group_v=group_v,
        clip_a=clip_a,
        board=board.see(group_v, through, state.celsius, passed) if board is not None else None,
        gauge=bench.gauge.count(model, through, passed, float(group_v.max()), float(group_v.min()))
        if bench.gauge is not None
        else None,
    ), log


def _through(bench: Rig, drive: Drive) -> Drive:
    """What of the drive reaches the cells: what sits on the groups does, all else passes main contact and board."""
    if isinstance(drive, GroupCharger | GroupChargers | HarnessCharger | Bleed | Rest):
        return drive
    charging = isinstance(drive, StringCharger) or (isinstance(drive, ConstantCurrent) and drive.amps > 0)
    if bench.model.main_open or (bench.board is not None and not bench.board.lets(1.0 if charging else -1.0)):
        return Rest()
    return drive


def _restless(board: Board) -> bool:
    return any(for_s > 0 for _, for_s in board.since) or bool(board.charge_open | board.discharge_open - {"asleep"})


def _harness_amps(bench: Rig, drive: HarnessCharger) -> float:
    """The current that brings the highest group towards `group_v` and not beyond."""
    ohm = float((bench.model.ohmic_ohm / bench.model.pack.parallel).max()) * 2
    headroom = drive.group_v - float(bench.group_v.max())
    return float(np.clip(bench.amps + headroom / ohm, 0.0, drive.amps))


def _harness_bleeds(bench: Rig, drive: HarnessCharger) -> Array:
    """Each resistor switched for the share of time that its group's lead asks: abrupt ones would chase each other."""
    lead = bench.group_v - float(bench.group_v.min())
    share = np.where(
        bench.group_v > drive.group_v * HARNESS_BLEEDS_ABOVE, np.clip(lead / HARNESS_FULL_BLEED_V, 0, 1), 0
    )
    return np.asarray(share / drive.bleed_ohm, dtype=np.float64)


def _harness_done(bench: Rig, drive: HarnessCharger, taper_a: float) -> bool:
    low = float(bench.group_v.min())
    return taper_a > 0 and bench.amps <= taper_a and low >= drive.group_v - HARNESS_WINDOW_V

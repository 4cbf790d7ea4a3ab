"""A simulated pack as it is saved, and a source as it is begun with."""

from typing import Any

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack import Board, BoardLimits, Log
from saldatura.battery.quantities import Pack
from saldatura.shop.instrument import Source, SourceKind


def lasts(log: Log) -> float:
    """Seconds that a log covers."""
    step = float(log.time_s[1] - log.time_s[0]) if len(log.time_s) > 1 else 1.0
    return step * len(log.time_s)


def usual(pack: Pack, kind: SourceKind) -> Source:
    """How an instrument stands before anybody set it: harmless for this pack."""
    window = WINDOWS[pack.chemistry]
    half = min(round(pack.rated_ah / 2, 2), 500.0)
    string = kind == "supply"
    return Source(
        volts=round(window.full_v * (pack.in_string if string else 1), 3),
        amps=half,
        cutoff_a=min(round(pack.rated_ah / 20, 3), 100.0),
        low_v=round(window.tool_end_v * pack.in_string, 2),
    )


def board_dump(board: Board) -> dict[str, Any]:
    """A board as it is saved."""
    return {
        "limits": board.limits.model_dump(mode="json"),
        "charge_open": sorted(board.charge_open),
        "discharge_open": sorted(board.discharge_open),
        "since": [list(pair) for pair in board.since],
        "quiet_s": board.quiet_s,
        "fuse_blown": board.fuse_blown,
    }


def board_load(saved: dict[str, Any]) -> Board:
    """A board as it was saved."""
    return Board(
        limits=BoardLimits.model_validate(saved["limits"]),
        charge_open=frozenset(saved["charge_open"]),
        discharge_open=frozenset(saved["discharge_open"]),
        since=tuple((reason, float(for_s)) for reason, for_s in saved["since"]),
        quiet_s=saved["quiet_s"],
        fuse_blown=saved["fuse_blown"],
    )

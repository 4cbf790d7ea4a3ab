"""Timing: percentiles of repeated calls, and the line each benchmark gives."""

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """One measured figure against what is wanted of it."""

    what: str
    measured: str
    wanted: str
    holds: bool


def milliseconds(call: Callable[[], object], repeats: int, warm: int = 3) -> list[float]:
    """Wall time of each of `repeats` calls, after some to warm up."""
    for _ in range(warm):
        call()
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        call()
        taken.append((time.perf_counter() - start) * 1000)
    return taken


def percentile(values: list[float], share: float) -> float:
    """The value below which `share` of the values lie."""
    return statistics.quantiles(values, n=100, method="inclusive")[round(share * 100) - 1]


def at_most(what: str, values: list[float], share: float, limit_ms: float) -> Figure:
    """A percentile against a limit in ms."""
    found = percentile(values, share)
    return Figure(
        what,
        f"{found:.1f} ms (median {statistics.median(values):.1f}, n {len(values)})",
        f"≤ {limit_ms:g} ms",
        found <= limit_ms,
    )

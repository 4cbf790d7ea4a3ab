"""Runs forecast against cells of another kind of model, and who ends a mixed string against that string stepped second by second.

The cells are the single particles of `taper`, discharged at currents and in pulses; the program is told capacity, the 10 s
resistance and the rest voltage of each, as a bench would measure them. The mixed strings are of the bench model itself, run in
its own long form: the forecast's larger steps, chunks and short cuts must name the same end.
"""

import secrets
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from bench.measure import Figure, milliseconds
from bench.taper import Cell
from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.pack.drive import ConstantCurrent
from saldatura.battery.pack.model import PackState, advance
from saldatura.battery.prove.run_time import model_of, run_time
from saldatura.battery.prove.run_types import RunTimeRequest

CASES, STRINGS, ENDS_V = 150, 300, 3.0


def _discharged(cell: Cell, steps: list[tuple[float, float]], dt: float = 5.0) -> float:
    """Seconds until a cell of its own has fallen to its end, by steps of current that repeat."""
    at, last_v = 0.0, 5.0
    while at < 40 * 3600:
        for amps, seconds in steps:
            for _ in range(max(round(seconds / dt), 1)):
                volts, neg, pos = cell.after(-amps, dt)
                if volts < ENDS_V:
                    return at + dt * (last_v - ENDS_V) / max(last_v - volts, 1e-9)
                cell.neg.c, cell.pos.c = neg, pos
                at, last_v = at + dt, volts
    return at


def _run(seed: int) -> tuple[float, bool]:
    """By how much a forecast misses, and whether its range held."""
    rng = np.random.default_rng(seed)
    cell = Cell(rng, float(rng.choice([2.0, 2.6, 5.0])), float(rng.uniform(0.8, 1.0)))
    amps = float(rng.uniform(0.2, 2.0)) * cell.q
    group = {"rest_v": round(cell.rest_v(), 3), "capacity_ah": cell.q, "resistance_ohm": cell.ten_s_ohm(amps)}
    load: dict[str, object] = {"current_a": amps}
    steps = [(amps, 3600.0)]
    if rng.random() < 0.4:
        steps = [(amps, 10.0), (0.0, 10.0)]
        load = {"steps": [{"current_a": a, "seconds": s} for a, s in steps], "repeat": True}
    found = run_time(
        RunTimeRequest.model_validate(
            {
                "chemistry": "nmc",
                "series": 1,
                "groups": [group],
                "load": load,
                "group_cutoff_v": ENDS_V,
                "hottest_c": 120,
            }
        )
    )
    truth = _discharged(cell, steps)
    return abs(found.duration_s - truth) / truth, found.duration_low_s <= truth <= found.duration_high_s


def _mixed(seed: int) -> bool:
    """Whether a mixed string ends as it does stepped by a tenth of a second from the start."""
    rng = np.random.default_rng(seed)
    series, q = int(rng.integers(2, 14)), 4.0
    groups = [
        {"soc": float(rng.uniform(0.75, 1.0)), "capacity_ah": q * float(rng.uniform(0.7, 1.05)), "resistance_ohm": 0.02 * float(rng.uniform(0.8, 2.0))}
        for _ in range(series)
    ]  # fmt: skip
    amps, pack_v = float(rng.uniform(1.0, 8.0)), float(rng.uniform(2.8, 3.4)) * series
    request = RunTimeRequest.model_validate(
        {
            "chemistry": "nmc",
            "series": series,
            "groups": groups,
            "load": {"current_a": amps},
            "cutoff_v": pack_v,
            "group_cutoff_v": 2.8,
        }
    )
    found = run_time(request).ends
    model = model_of("nmc", request.groups, middle_curve("nmc"), 1.0, 1.0)
    state = PackState.at_rest(model, 25.0)
    truth: tuple[str, int | None] = ("none", None)
    while truth[0] == "none":
        state, log = advance(model, state, ConstantCurrent(amps=-amps), 5.0, 0.1, 25.0)
        group = np.flatnonzero(log.group_v.min(axis=1) < 2.8)
        pack = np.flatnonzero(log.volts < pack_v)
        if len(group) or len(pack):
            first = min(
                [(int(group[0]), 0)] if len(group) else [(9999, 0)], [(int(pack[0]), 1)] if len(pack) else [(9999, 1)]
            )[0]
            truth = ("group", int(np.argmin(log.group_v[first[0]])) + 1) if first[1] == 0 else ("pack", None)
        elif float(state.celsius.max()) >= 60.0:
            truth = ("temperature", int(np.argmax(state.celsius.max(axis=1))) + 1)
    return (found.by, found.group) == truth


def figures() -> Iterator[Figure]:
    """Runs and ends of a fresh seed."""
    seed = secrets.randbits(31)
    with ProcessPoolExecutor(2) as pool:
        runs = list(pool.map(_run, range(seed, seed + CASES), chunksize=5))
        ends = list(pool.map(_mixed, range(seed, seed + STRINGS), chunksize=10))
    missed, held = np.array([m for m, _ in runs]) * 100, float(np.mean([h for _, h in runs]))
    middle, worse = float(np.median(missed)), float(np.percentile(missed, 90))
    yield Figure(
        f"run-time: cells of another model, currents and pulses, {CASES} runs (seed {seed})",
        f"median {middle:.1f} %, 90th percentile {worse:.1f} %, range holds {held:.0%}",
        "6 %, 12 %, 90 %", middle <= 6 and worse <= 12 and held >= 0.90,
    )  # fmt: skip
    right = float(np.mean(ends))
    yield Figure(f"run-time: who ends a mixed string, {STRINGS} strings", f"{right:.1%} right", "99 %", right >= 0.99)
    request = RunTimeRequest.model_validate({
        "chemistry": "nmc", "series": 14, "load": {"current_a": 12}, "cutoff_v": 42,
        "groups": [{"soc": 0.95, "capacity_ah": 5 - 0.05 * k, "resistance_ohm": 0.02} for k in range(14)],
    })  # fmt: skip
    took = milliseconds(lambda: run_time(request), 9)
    yield Figure("run-time: 14 groups, slowest of 9", f"{max(took):.0f} ms", "≤ 200 ms", max(took) <= 200)

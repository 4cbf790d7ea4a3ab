"""Levelling over channels: plans against one after the other and against the bound, and cells that are not what they were taken for."""

import math
import secrets
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np

from bench.measure import Figure, milliseconds
from saldatura.battery.cell.curves import curves_for
from saldatura.battery.level import LevelPlanRequest, level_plan

CASES, PACKS = 200, 200
WRONG_CAPACITY, WRONG_RESISTANCE = 0.20, 0.40


def _case(seed: int) -> dict[str, Any]:
    """A pack as it comes and what a bench has, in figures of a bench's own."""
    rng = np.random.default_rng(seed)
    series, q = int(rng.integers(3, 15)), float(rng.choice([2.0, 2.6, 4.0, 5.0, 8.0]))
    low = rng.uniform(3.3, 3.8)
    volts = np.clip(low + np.abs(rng.normal(0, 0.18, series)), 3.1, 4.15)
    channels: list[dict[str, Any]] = [
        {
            "name": f"channel {k}", "max_a": float(rng.choice([0.5, 1.0, 2.0, 3.0])), "min_a": float(rng.choice([0.0, 0.02, 0.05])),
            "isolated": bool(rng.random() < 0.7), "stops": bool(rng.random() < 0.6),
        }
        for k in range(int(rng.integers(1, 5)))
    ]  # fmt: skip
    if rng.random() < 0.4:
        channels.append({"name": "resistor", "kind": "bleed", "ohm": 4.7, "watts": 10.0})
    groups = [{"rest_v": float(v), "capacity_ah": q, "resistance_ohm": 0.08 / q} for v in volts]
    return {
        "chemistry": "nmc",
        "groups": groups,
        "channels": channels,
        "target": str(rng.choice(["full", "match", "storage"])),
    }


def _planned(seed: int) -> tuple[float, float, float]:
    found = level_plan(LevelPlanRequest.model_validate(_case(seed)))
    return found.finish_s, found.bound_s, found.one_by_one_s


class _Cell:
    """A group of its own: another curve, two branches, stepped by the second."""

    def __init__(self, rng: np.random.Generator, q: float, r: float, rest_v: float) -> None:
        self.curve = curves_for("nmc")[int(rng.integers(len(curves_for("nmc"))))]
        self.q = q * rng.uniform(1 - WRONG_CAPACITY, 1 + WRONG_CAPACITY)
        r *= rng.uniform(1 - WRONG_RESISTANCE, 1 + WRONG_RESISTANCE)
        self.r, self.slow = r, [(0.5 * r, 60.0), (0.5 * r, 500.0)]
        self.v = [0.0, 0.0]
        self.soc = float(self.curve.soc_at(rest_v))

    def ocv(self) -> float:
        return float(self.curve.volts(self.soc))

    def flow(self, amps: float, seconds: float) -> None:
        self.soc += amps * seconds / 3600 / self.q
        for k, (ohm, tau) in enumerate(self.slow):
            settles = amps * ohm
            self.v[k] = settles + (self.v[k] - settles) * math.exp(-seconds / tau)

    def rest(self, seconds: float) -> float:
        self.flow(0.0, seconds)
        return self.ocv() + sum(self.v)


def _pack(seed: int) -> tuple[bool, float, int]:
    """A pack levelled by its plan, read after its rest, planned again where a group is off; whether all ended level, the worst, rounds."""
    rng = np.random.default_rng(seed)
    case = _case(seed)
    cells = [_Cell(rng, g["capacity_ah"], g["resistance_ohm"], g["rest_v"]) for g in case["groups"]]
    target: Any = case["target"]
    top, turns = 0.0, 0
    for turn in range(3):
        for g, cell in zip(case["groups"], cells, strict=True):
            # Read with a bench meter, to its millivolt.
            g["rest_v"] = round(cell.rest(3600.0) + float(rng.normal(0, 0.001)), 3)
        plan = level_plan(LevelPlanRequest.model_validate({**case, "target": target}))
        # What was chosen first stays: a second round is no new wish.
        target = {"rest_v": plan.target_rest_v} if case["target"] == "match" else target
        if not plan.steps:
            break
        for step in plan.steps:
            cell = cells[step.group - 1]
            ohm = next((c.get("ohm") for c in case["channels"] if c["name"] == step.channel), None)
            for _ in range(300_000):
                lifted = cell.ocv() + sum(cell.v)
                if step.kind == "bleed":
                    assert ohm is not None
                    amps = -lifted / (ohm + cell.r)
                    if lifted + amps * cell.r <= step.stop_at.volts:
                        break
                else:
                    amps = min(step.current_a, (step.stop_at.volts - lifted) / cell.r)
                    if amps <= step.stop_at.taper_a:
                        break
                cell.flow(amps, 2.0)
            top = max(top, cell.ocv() - (4.2 if step.kind != "bleed" else 9.9))
        turns = turn + 1
    left = {r.group for r in plan.refused}
    off = [abs(c.rest(7200.0) - plan.target_rest_v) for k, c in enumerate(cells, start=1) if k not in left]
    return max(off, default=0.0) <= 0.010 and top <= 0.010, max(off, default=0.0), turns


def figures() -> Iterator[Figure]:
    """Plans and packs of a fresh seed."""
    seed = secrets.randbits(31)
    with ProcessPoolExecutor(2) as pool:
        plans = np.array(list(pool.map(_planned, range(seed, seed + CASES), chunksize=5)))
        packs = list(pool.map(_pack, range(seed, seed + PACKS), chunksize=5))
    busy = plans[plans[:, 0] > 0]
    gap = busy[:, 0] / np.maximum(busy[:, 1], 1e-9) - 1
    yield Figure(
        f"level-plan: within 2 % of the bound, {len(busy)} cases (seed {seed})",
        f"{np.mean(gap <= 0.02):.1%}; median gap {np.median(gap):.2%}, worst {gap.max():.1%}; one after the other takes {np.median(busy[:, 2] / busy[:, 0]):.2f} times as long (median)",
        "95 %", bool(np.mean(gap <= 0.02) >= 0.95),
    )  # fmt: skip
    level = float(np.mean([ok for ok, _, _ in packs]))
    yield Figure(
        f"level-plan: every group within 10 mV after rest, capacity ±20 %, resistance ±40 %, another curve, {PACKS} packs",
        f"{level:.1%}; worst {1000 * max(o for _, o, _ in packs):.1f} mV; {np.mean([n for *_, n in packs]):.2f} rounds",
        "95 %", level >= 0.95,
    )  # fmt: skip
    rng = np.random.default_rng(seed)
    big = LevelPlanRequest.model_validate({
        "chemistry": "nmc", "target": "full",
        "groups": [{"rest_v": float(v), "capacity_ah": float(q), "resistance_ohm": 0.02} for v, q in zip(rng.uniform(3.3, 4.1, 20), rng.uniform(3.5, 4.5, 20), strict=True)],
        "channels": [{"name": f"c{k}", "max_a": float(a)} for k, a in enumerate(rng.uniform(0.5, 3.0, 8))],
    })  # fmt: skip
    took = milliseconds(lambda: level_plan(big), 8)
    yield Figure(
        "level-plan: 20 groups over 8 channels, slowest of 8", f"{max(took):.0f} ms", "≤ 2000 ms", max(took) <= 2000
    )  # fmt: skip

"""Joining: welders that the program never saw, and a large network of strips."""

import itertools
import math
import secrets
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
from scipy.linalg import solve_banded

from bench.measure import Figure, at_most, milliseconds
from saldatura.battery.join import InterconnectRequest, WeldRequest, interconnect, weld_window

WELDERS, COUPONS = 200, 10
LOWEST, HIGHEST = 2.0, 40.0


def _logistic(z: float) -> float:
    return 1 / (1 + math.exp(-min(max(z, -60), 60)))


# Upper over lower edge, and how soft both are: what a thin and a thick strip leave.
WIDTHS = {"narrow": ((1.15, 1.35), (0.005, 0.03)), "wide": ((1.5, 3.7), (0.01, 0.06))}


def _welder(of: tuple[str, int]) -> tuple[bool, float, float, int, float]:
    """A welder of its own edges, ten coupons at most: whether a setting was named, how truly good it is, how often it burns, coupons,
    and the chance that was told."""
    width, seed = of
    rng = np.random.default_rng(seed)
    apart, softness = WIDTHS[width]
    low = LOWEST * math.exp(rng.uniform(0.25, 2.1))
    high = low * math.exp(rng.uniform(math.log(apart[0]), math.log(apart[1])))
    soft = rng.uniform(*softness, 2)
    torn = rng.random() < 0.5

    def burns(x: float) -> float:
        return _logistic(math.log(x / high) / soft[1])

    def good(x: float) -> float:
        return _logistic(math.log(x / low) / soft[0]) * (1 - burns(x))

    coupons: list[dict[str, Any]] = []
    body = {"lowest": LOWEST, "highest": HIGHEST}
    for _ in range(COUPONS):
        at = weld_window(WeldRequest.model_validate({**body, "coupons": coupons})).next_coupon
        if at is None:
            break
        dice = rng.random()
        bonds = "weak" if at > low * rng.uniform(0.6, 0.85) else "no_bond"
        outcome = "burnt" if dice < burns(at) else "good" if dice < burns(at) + good(at) else bonds
        coupons.append(
            {
                "setting": at,
                "outcome": outcome,
                "button": outcome == "good" if torn and outcome in ("good", "weak") else None,
            }
        )
    told = weld_window(WeldRequest.model_validate({**body, "coupons": coupons}))
    use = told.use
    return use is not None, good(use) if use else 0.0, burns(use) if use else 0.0, len(coupons), told.chance_good


def _block(series: int, parallel: int, rng: np.random.Generator) -> InterconnectRequest:
    """Cells in a grid, strips along and across: some hundred pieces a tap."""
    cells = [
        {"cell": f"c{g}_{p}", "volts": 3.7, "resistance_ohm": 0.02 * float(rng.uniform(0.8, 1.3))}
        for g in range(series)
        for p in range(parallel)
    ]
    ends = []
    for tap in range(series + 1):
        plus = [f"c{tap - 1}_{p}+" for p in range(parallel)] if tap else []
        minus = [f"c{tap}_{p}-" for p in range(parallel)] if tap < series else []
        ends += [
            *itertools.pairwise(plus),
            *itertools.pairwise(minus),
            *zip(plus, minus, strict=False),
        ]
        ends += [*zip(plus, minus[1:], strict=False), *zip(plus[1:], minus, strict=False)]
    ends += [("c0_0-", "minus"), (f"c{series - 1}_0+", "plus")]
    segments = [
        {"segment": f"s{k}", "from": a, "to": b, "width_mm": 8, "thickness_mm": 0.15, "length_mm": 20}
        for k, (a, b) in enumerate(ends)
    ]
    return InterconnectRequest.model_validate(
        {"cells": cells, "segments": segments, "take_off": {"positive": "plus", "negative": "minus"}, "current_a": 60}
    )


# Metals by their tables, apart from the program's: Ω·m, W/mK.
METALS = {
    "nickel": (7.0e-8, 91.0), "plated_steel": (1.5e-7, 50.0), "copper": (1.72e-8, 398.0), "aluminium": (2.82e-8, 237.0), "brass": (6.5e-8, 110.0),
}  # fmt: skip
FINS, NODES, FACE = 60, 1201, 10.0


def _strip_rise_k(metal: str, width: float, thick: float, long: float, amps: float, free: bool) -> float:
    """The highest rise over the cells of one strip by finite differences: both ends on poles, or one free; one face to the air."""
    rho, k = METALS[metal]
    area, dx = width * thick, long / (NODES - 1)
    own, loss = amps**2 * rho / area, FACE * width
    matrix, right = np.zeros((3, NODES)), np.full(NODES, own * dx**2)
    matrix[0, 1:] = matrix[2, :-1] = -k * area
    matrix[1] = 2 * k * area + loss * dx**2
    matrix[1, 0], matrix[0, 1], right[0] = 1.0, 0.0, 0.0
    if free:
        # Half a piece at the free end, and no heat goes on from there.
        matrix[1, -1], right[-1] = k * area + loss * dx**2 / 2, own * dx**2 / 2
    else:
        matrix[1, -1], matrix[2, -2], right[-1] = 1.0, 0.0, 0.0
    return float(solve_banded((1, 1), matrix, right).max())


def _heat(rng: np.random.Generator) -> float:
    """The largest difference between the program's rise and that of finite differences, as a share, for one joint and its two tails."""
    metal = str(rng.choice(list(METALS)))
    width, thick = float(rng.uniform(4, 15)), float(rng.uniform(0.1, 0.4))
    between, tail, amps = float(rng.uniform(8, 60)), float(rng.uniform(5, 80)), float(rng.uniform(2, 40))
    of = {"material": metal, "width_mm": width, "thickness_mm": thick}
    found = interconnect(
        InterconnectRequest.model_validate(
            {
                "cells": [{"cell": c, "volts": 3.7, "resistance_ohm": 0.02} for c in "ab"],
                "segments": [
                    {"segment": "joint", "from": "a+", "to": "b-", "length_mm": between, **of},
                    {"segment": "minus tail", "from": "a-", "to": "n0", "length_mm": tail, **of},
                    {"segment": "plus tail", "from": "b+", "to": "n1", "length_mm": tail, **of},
                ],
                "take_off": {"positive": "n1", "negative": "n0"},
                "current_a": amps,
            }
        )
    )
    told = {s.segment: s.over_cell_k for s in found.segments}
    worst = 0.0
    for name, long, free in (("joint", between, False), ("plus tail", tail, True)):
        true = _strip_rise_k(metal, width / 1e3, thick / 1e3, long / 1e3, amps, free)
        worst = max(worst, abs(told[name] - true) / max(true, 0.05))
    return worst


def figures() -> Iterator[Figure]:
    """Welders, the heat of strips, and a network."""
    seed = secrets.randbits(31)
    rng = np.random.default_rng(seed)
    heat = max(_heat(rng) for _ in range(FINS))
    yield Figure(
        f"`interconnect`: rise of {FINS} joints and tails against finite differences (seed {seed})",
        f"worst {heat:.2%}", "within 1 %", heat <= 0.01,
    )  # fmt: skip
    for width in WIDTHS:
        with ProcessPoolExecutor(2) as pool:
            found = list(pool.map(_welder, [(width, k) for k in range(seed, seed + WELDERS)], chunksize=4))
        named = [f for f in found if f[0]]
        truly, told = float(np.mean([f[1] for f in named])), float(np.mean([f[4] for f in named]))
        burnt = sum(f[2] > 0.2 for f in named)
        yield Figure(
            f"weld: what a named setting promises, {WELDERS} {width} welders (seed {seed})",
            f"told {told:.1%}, true {truly:.1%}; under 95 % {np.mean([f[1] < 0.95 for f in named]):.0%}; burns one in five or oftener: {burnt}; named for {len(named) / len(found):.0%}, {np.mean([f[3] for f in found]):.1f} coupons",
            "within 5 points, at least 95 % on average, dangerous none", abs(told - truly) <= 0.05 and truly >= 0.95 and burnt == 0,
        )  # fmt: skip
    block = _block(20, 20, np.random.default_rng(seed))
    yield at_most(
        f"`interconnect`, 20S20P with {len(block.segments)} pieces, 95th percentile",
        milliseconds(lambda: interconnect(block), 20),
        0.95,
        200,
    )

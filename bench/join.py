"""Joining: welders that the program never saw, and a large network of strips."""

import itertools
import math
import secrets
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np

from bench.measure import Figure, at_most, milliseconds
from saldatura.core.join import InterconnectRequest, WeldRequest, interconnect, weld_window

WELDERS, COUPONS = 200, 10
LOWEST, HIGHEST = 2.0, 40.0


def _logistic(z: float) -> float:
    return 1 / (1 + math.exp(-min(max(z, -60), 60)))


def _welder(seed: int) -> tuple[bool, float, float, int]:
    """A welder of its own edges, ten coupons at most: whether a setting was named, how truly good it is, how often it burns, coupons."""
    rng = np.random.default_rng(seed)
    low = LOWEST * math.exp(rng.uniform(0.25, 2.1))
    high = low * math.exp(rng.uniform(0.4, 1.3))
    soft = rng.uniform(0.01, 0.06, 2)

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
        coupons.append({"setting": at, "outcome": outcome})
    use = weld_window(WeldRequest.model_validate({**body, "coupons": coupons})).use
    return use is not None, good(use) if use else 0.0, burns(use) if use else 0.0, len(coupons)


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


def figures() -> Iterator[Figure]:
    """Welders and a network."""
    seed = secrets.randbits(31)
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_welder, range(seed, seed + WELDERS), chunksize=4))
    named = [f for f in found if f[0]]
    truly = float(np.mean([good >= 0.95 for _, good, _, _ in named]))
    yield Figure(
        f"weld: a named setting is truly good in 95 % of trials, {WELDERS} welders (seed {seed})",
        f"{truly:.1%} of the {len(named)} welders it named one for; burns {max(b for _, _, b, _ in named):.1%} at worst; {np.mean([f[3] for f in found]):.1f} coupons",
        "95 % of welders", truly >= 0.95,
    )  # fmt: skip
    yield Figure(
        "weld: a setting named within ten coupons",
        f"{len(named) / len(found):.0%}",
        "at least 90 %",
        len(named) >= 0.9 * len(found),
    )
    block = _block(20, 20, np.random.default_rng(seed))
    yield at_most(
        f"`interconnect`, 20S20P with {len(block.segments)} pieces, 95th percentile",
        milliseconds(lambda: interconnect(block), 20),
        0.95,
        200,
    )

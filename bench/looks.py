"""What one look at a running charge is worth, on cells made apart from the core: another curve, two branches, worn cells."""

import secrets
from collections.abc import Iterator
from statistics import median

import numpy as np

from bench.measure import Figure
from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.looks import Seen, sharpen
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import DEFAULT_POLICY

COUNT = 300


def _ocv(soc: float) -> float:
    """A layered oxide's rest voltage as a smooth curve of no published cell."""
    return 3.42 + 0.62 * soc + 0.13 * soc**6 + 0.06 * np.tanh(9 * (soc - 0.12)) - 0.30 * np.exp(-28 * soc)


def _charged(soc: float, ah: float, ohm: float, amps: float, full_v: float, cutoff_a: float) -> np.ndarray:
    """(seconds, volts, amps) of a charge at constant current and then voltage, 5 s a step; branches of 25 s and 700 s."""
    fast = slow = t = 0.0
    rows = []
    while True:
        most = (full_v - _ocv(soc) - fast - slow) / (0.55 * ohm)
        now = min(amps, most)
        rows.append((t, _ocv(soc) + now * 0.55 * ohm + fast + slow, now))
        if now <= cutoff_a or t > 200_000:
            return np.array(rows)
        soc += now * 5 / 3600 / ah
        fast += (now * 0.45 * ohm - fast) * (1 - np.exp(-5 / 25))
        slow += (now * 0.9 * ohm - slow) * (1 - np.exp(-5 / 700))
        t += 5.0


def figures() -> Iterator[Figure]:
    """Time left after one look against what was truly left, beside the forecast made before anything was seen."""
    seed = secrets.randbits(32)
    rng = np.random.default_rng(seed)
    before, after, held, misfit = [], [], 0, 0
    for _ in range(COUNT):
        rated = float(rng.choice([2.2, 2.6, 4.0, 5.0, 12.0]))
        ah = rated * float(rng.uniform(0.65, 1.03))
        ohm = usual_resistance_ohm("nmc", rated) * float(np.exp(rng.normal(0.2, 0.4)))
        soc = float(rng.uniform(0.15, 0.75))
        asked = ChargeRequest(
            chemistry="nmc", capacity_ah=rated, resistance_ohm=usual_resistance_ohm("nmc", rated),
            start_rest_v=round(_ocv(soc) + float(rng.normal(0, 0.006)), 2), current_a=round(rated * 0.5, 2), full_v=4.2,
            cutoff_a=round(rated * 0.05, 3),
        )  # fmt: skip
        ran = _charged(soc, ah, ohm, asked.current_a, 4.2, asked.cutoff_a or 0.1)
        ended = float(ran[-1, 0])
        at = ran[int(len(ran) * rng.uniform(0.4, 0.95))]
        # As a clip at the taps and a charger's display show it.
        look = Seen(
            at_s=float(at[0]),
            volts=round(float(at[1]) + float(rng.normal(0, 0.005)), 2),
            amps=round(float(at[2]) * float(rng.normal(1, 0.015)), 2),
        )
        first, seen = charge(asked), sharpen(asked, [look], False, False, DEFAULT_POLICY)
        assert seen is not None
        if not seen.fits:
            misfit += 1
            continue
        before.append(abs(first.duration_s - ended) / ended)
        after.append(abs(seen.duration_s - ended) / ended)
        held += seen.duration_low_s <= ended <= seen.duration_high_s
    share = held / len(after)
    yield Figure(
        "a look at a charge, worn cells of another curve",
        f"end off by {median(before):.1%} before, {median(after):.1%} after it; its range holds {share:.0%}, {misfit} of {COUNT} called a misfit "
        f"(seed {seed})",
        "nearer than before, range holds 85 %, misfit under 3 %",
        median(after) < median(before) and share >= 0.85 and misfit < 0.03 * COUNT,
    )  # fmt: skip

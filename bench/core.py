"""The computations that a screen waits for."""

import time
from collections.abc import Iterator

import numpy as np
from tests.core.pack.reference import Reference

from bench.measure import Figure, at_most, milliseconds
from saldatura.core.charge import ChargeRequest, charge
from saldatura.core.pack import Log, PackState, StringCharger, advance, build
from saldatura.core.quantities import Pack
from saldatura.core.reconcile import ReconcileRequest, reconcile


def figures() -> Iterator[Figure]:
    """Each computation's time."""
    request = ChargeRequest(chemistry="li_oxide", capacity_ah=5.0, resistance_ohm=0.03, start_rest_v=2.4, current_a=2.5)
    yield at_most(
        "`charge`, four curves, run flat: 95th percentile", milliseconds(lambda: charge(request), 100), 0.95, 5
    )
    yield from _pack_model()
    rng = np.random.default_rng(1)
    true = rng.normal(3.9, 0.01, 20)
    exact = [({"kind": "tap", "tap": k + 1}, true[: k + 1].sum()) for k in range(20)]
    exact += [({"kind": "group", "group": k + 1}, true[k]) for k in range(20)]
    exact += [({"kind": "span", "from_tap": k, "to_tap": k + 2}, true[k : k + 2].sum()) for k in range(19)]
    exact += [({"kind": "pack"}, true.sum())]
    noisy = [{**point, "volts": round(float(v + rng.uniform(-0.02, 0.02)), 2)} for point, v in exact]
    ladder = ReconcileRequest.model_validate({"chemistry": "nmc", "series": 20, "readings": noisy})
    yield at_most(
        "`reconcile`, 20 groups, 60 readings: 95th percentile", milliseconds(lambda: reconcile(ladder), 100), 0.95, 20
    )


def _pack_model() -> Iterator[Figure]:
    model = build(Pack(chemistry="nmc", series=14, parallel=5, rated_ah=12.0), 0.1)
    charger = StringCharger(volts=58.8, amps=6.0)

    def run() -> Log:
        return advance(model, PackState.at_rest(model), charger, 40_000, taper_a=0.6)[1]

    mine = milliseconds(run, 5, warm=1)
    yield at_most("Bench model, 14S5P, CC-CV from 10 %, 1 s steps: slowest of five", mine, 0.99, 1000)
    log = run()
    reference = Reference(model)
    start = time.perf_counter()
    reference.solve(lambda a, b: max(min(6.0, (58.8 - a) / b), 0.0), log.time_s, method="RK45", rtol=1e-6, atol=1e-8)
    slow = (time.perf_counter() - start) * 1000
    ratio = slow / float(np.median(mine))
    yield Figure(
        "The same in solve_ivp (RK45, same output times), times slower",
        f"{ratio:.0f} ({slow:.0f} ms)",
        "≥ 20",
        ratio >= 20,
    )

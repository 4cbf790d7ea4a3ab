"""The computations that a screen waits for."""

from collections.abc import Iterator

import numpy as np

from bench.measure import Figure, at_most, milliseconds
from saldatura.core.charge import ChargeRequest, charge
from saldatura.core.reconcile import ReconcileRequest, reconcile


def figures() -> Iterator[Figure]:
    """Each computation's time."""
    request = ChargeRequest(chemistry="li_oxide", capacity_ah=5.0, resistance_ohm=0.03, start_rest_v=2.4, current_a=2.5)
    yield at_most(
        "`charge`, four curves, run flat: 95th percentile", milliseconds(lambda: charge(request), 100), 0.95, 20
    )
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

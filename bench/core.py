"""The computations that a screen waits for."""

import time
from collections.abc import Iterator

import numpy as np
from tests.battery.pack.reference import Reference

from bench.measure import Figure, at_most, milliseconds
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.pack import Log, PackState, StringCharger, advance, build
from saldatura.battery.quantities import Pack
from saldatura.battery.reconcile import ReconcileRequest, reconcile


def figures() -> Iterator[Figure]:
    """Each computation's time."""
    request = ChargeRequest(chemistry="li_oxide", capacity_ah=5.0, resistance_ohm=0.03, start_rest_v=2.4, current_a=2.5)
    yield at_most(
        "`charge`, four curves, run flat: 95th percentile", milliseconds(lambda: charge(request), 100), 0.95, 5
    )
    yield from _pack_model()
    yield from _reconcile()


def _ladder(rng: np.random.Generator, faults: tuple[str, ...]) -> ReconcileRequest:
    """20 groups read by 20 taps, 20 groups, 19 spans of two and the terminals, with faults."""
    true = rng.normal(3.9, 0.01, 20)
    taps = np.array([0.0, *np.cumsum(true)])
    pins = taps.copy()
    if "open" in faults:
        tap = int(rng.integers(1, 20))
        pins[tap] = rng.uniform(taps[tap - 1], taps[tap + 1])
    if "exchanged" in faults:
        a, b = rng.choice(np.arange(1, 20), 2, replace=False)
        pins[[a, b]] = pins[[b, a]]
    if "shifted" in faults:
        first = int(rng.integers(1, 20))
        pins[first:] = taps[first - 1 : -1]
    exact = [({"kind": "tap", "tap": k}, pins[k] - pins[0]) for k in range(1, 21)]
    exact += [({"kind": "group", "group": k}, pins[k] - pins[k - 1]) for k in range(1, 21)]
    exact += [({"kind": "span", "from_tap": k, "to_tap": k + 2}, pins[k + 2] - pins[k]) for k in range(19)]
    exact += [({"kind": "pack"}, taps[20] * (0.6 if "terminals" in faults else 1.0))]
    read = [{**point, "volts": round(float(v + rng.uniform(-0.02, 0.02)), 2)} for point, v in exact]
    if "wrong" in faults:
        read[int(rng.integers(59))]["volts"] += round(float(rng.uniform(0.2, 2)), 2)
    if "reversed" in faults:
        read[int(rng.integers(59))]["volts"] *= -1
    return ReconcileRequest.model_validate({"chemistry": "nmc", "series": 20, "readings": read})


def _reconcile() -> Iterator[Figure]:
    rng = np.random.default_rng(1)
    one = [(fault,) for fault in ("open", "exchanged", "shifted", "terminals", "wrong", "reversed")]
    for what, kinds, share in (
        ("sound", [()], 0.95),
        ("one fault of each kind", one, 0.95),
        ("a wire open and a reading wrong", [("open", "wrong")], 0.95),
        ("wires exchanged and terminals that differ", [("exchanged", "terminals")], 0.95),
    ):
        taken = []
        for kind in kinds:
            for _ in range(120 // len(kinds)):
                ladder = _ladder(rng, kind)
                taken += milliseconds(lambda asked=ladder: reconcile(asked), 1)
        yield at_most(f"`reconcile`, 20 groups, 60 readings, {what}: 95th percentile", taken, share, 20)


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

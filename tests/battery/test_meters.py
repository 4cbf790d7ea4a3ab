"""Readings as hand meters show them, range by range: level packs hold, and what the digits do not carry is not said."""

import random

import pytest

from saldatura.battery.measures.meters import CLASSES, range_of
from saldatura.battery.meter import Meter, MeterRange
from saldatura.battery.prove.checks import ProveRequest, prove
from saldatura.battery.reconcile import ReconcileRequest, reconcile
from tests.refusing import refuses

HAND = next(c for c in CLASSES if c.key == "2000").ranges


def shown(volts: float, gains: dict[float, float], rng: random.Random) -> tuple[float, float]:
    """What a display of 2,000 counts shows of a voltage, and the step it shows it in; each range has its own gain."""
    end = next(e for e in (0.2, 2.0, 20.0, 200.0) if abs(volts) < e)
    step = end / 2000
    off = volts * gains[end] + rng.choice((-1, 0, 0, 1)) * step
    return round(round((volts + off) / step) * step, 4), step


@pytest.mark.parametrize("seed", range(40))
def test_a_level_pack_typed_as_the_meter_shows_it_does_not_fail(seed: int) -> None:
    rng = random.Random(seed)
    gains = {end: rng.uniform(-0.004, 0.004) for end in (0.2, 2.0, 20.0, 200.0)}
    rest, readings = rng.uniform(3.6, 4.1), []
    total = 0.0
    for group in range(1, 11):
        total += (own := rest + rng.gauss(0, 0.002))
        point = {"kind": "tap", "tap": group} if seed % 2 else {"kind": "group", "group": group}
        volts, step = shown(total if seed % 2 else own, gains, rng)
        readings.append({**point, "volts": volts, "resolution_v": step})
    volts, step = shown(total, gains, rng)
    readings.append({"kind": "pack", "volts": volts, "resolution_v": step})
    request = {
        "pack": {"chemistry": "nmc", "series": 10, "rated_ah": 2.6},
        "meter": {"percent": 0.5, "digits": 2, "resolution_v": 0.01, "ranges": [r.model_dump() for r in HAND]},
        "readings": readings,
        "rest_s": 43200,
    }
    proof = prove(ProveRequest.model_validate(request))
    assert proof.result != "fail", proof.headline


def test_the_digits_typed_tell_the_range_and_a_nought_left_off_widens_the_doubt() -> None:
    meter = Meter(ranges=tuple(HAND))
    assert range_of(meter, 3.92, 0.01)[1].to_v == 20
    assert range_of(meter, 3.9, 0.1)[1].to_v == 200
    assert range_of(meter, 41.2, None)[1].to_v == 200
    # No range of this meter shows 41 V in steps of 10 mV.
    assert range_of(meter, 41.23, 0.01)[1].to_v == 200
    with refuses("ranges_out_of_order"):
        Meter(ranges=(MeterRange(to_v=20, percent=1, digits=1, resolution_v=0.01),) * 2)


@pytest.mark.parametrize("ranges", [(), tuple(HAND)])
def test_a_nought_left_off_among_finer_digits_widens_nothing_and_a_coarse_display_widens_all(ranges: tuple) -> None:
    def sigmas(steps: list[float]) -> list[float | None]:
        readings = [
            {"kind": "group", "group": k, "volts": v, "resolution_v": step}
            for k, (v, step) in enumerate(zip((4.1, 4.12, 4.11, 4.1), steps, strict=True), start=1)
        ]
        meter = Meter(ranges=ranges).model_dump()
        request = {"chemistry": "nmc", "series": 4, "meter": meter, "readings": readings}
        return [g.sigma_v for g in reconcile(ReconcileRequest.model_validate(request)).groups]

    as_shown, lazy, coarse = sigmas([0.01] * 4), sigmas([0.1, 0.01, 0.01, 0.1]), sigmas([0.1] * 4)
    assert lazy == pytest.approx(as_shown)
    assert all(c is not None and s is not None and c > 2 * s for c, s in zip(coarse, as_shown, strict=True))

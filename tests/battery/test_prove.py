"""Acceptance limits: from chemistry, meter and rest."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.prove import words as prove_words
from saldatura.battery.prove.checks import Proof, ProveRequest, prove
from saldatura.battery.string.spread import pair_limit_v
from tests.battery.test_chemistry import published
from tests.saying import says

FINE = {"percent": 0.5, "digits": 2, "resolution_v": 0.001}


def proved(volts: list[float], rest_s: float | None = 7200.0, pack_v: float | None = None, **more: object) -> Proof:
    readings = [{"kind": "group", "group": k + 1, "volts": v} for k, v in enumerate(volts)]
    readings.append({"kind": "pack", "volts": round(sum(volts), 3) if pack_v is None else pack_v})
    pack = more.pop("pack", {"chemistry": "nca", "series": len(volts), "rated_ah": 4.0})
    return prove(
        ProveRequest.model_validate({"pack": pack, "meter": FINE, "readings": readings, "rest_s": rest_s, **more})
    )


def result(proof: Proof, name: str) -> str:
    return next(c.result for c in proof.checks if c.name == name)


def test_the_spread_limit_is_the_policy_charge_on_the_published_slope() -> None:
    socs, ocv = published("nca_kim2011")
    at = float(np.interp(4.05, ocv, socs))
    slope = (np.interp(at + 0.02, socs, ocv) - np.interp(at - 0.02, socs, ocv)) / 0.04
    assert pair_limit_v("nca", 4.05, 4.05, DEFAULT_POLICY) == pytest.approx(0.05 * slope, rel=0.02)


def test_a_level_rested_string_passes_and_each_defect_fails_its_own_check() -> None:
    assert proved([4.05, 4.052, 4.049, 4.05]).result == "pass"
    assert result(proved([4.05, 4.05, 3.95, 4.05]), "spread") == "fail"
    assert result(proved([4.26, 4.26, 4.26, 4.26]), "window") == "fail"
    assert result(proved([2.8, 2.8, 2.8, 2.8]), "window") == "fail"
    assert result(proved([4.05, 4.05, 4.05, 4.05], pack_v=15.5), "sum") == "fail"


def test_rest_is_as_long_as_the_slow_branch_needs() -> None:
    # I·R·exp(−t/300 s) must fall under 2 mV: 2 A through 0.05 Ω, 0.8 of it slow, needs 300·ln(40) s.
    needed = 300 * math.log(2 * 0.8 * 0.05 / 0.002)
    short = proved([4.05] * 4, rest_s=needed - 5, last_current_a=2.0, resistance_ohm=0.05)
    assert (short.result, result(short, "rest")) == ("not_yet", "not_yet")
    assert proved([4.05] * 4, rest_s=needed + 5, last_current_a=2.0, resistance_ohm=0.05).result == "pass"
    assert result(proved([4.05] * 4, rest_s=None), "rest") == "not_yet"


def test_doubt_makes_not_yet_and_never_a_pass() -> None:
    volts = [4.05, 4.05, 4.02, 4.05]
    assert result(proved(volts), "spread") == "pass"
    poor = proved(volts, meter={"percent": 1.0, "digits": 5, "resolution_v": 0.01})
    assert result(poor, "spread") == "not_yet"
    assert says(prove_words.allowed_here, next(c.because for c in poor.checks if c.name == "spread"))
    # Half a volt apart on a meter of tenths is no pass either.
    tenths = {"percent": 1.0, "digits": 2, "resolution_v": 0.1}
    assert result(proved([4.1, 4.1, 3.6, 4.1], meter=tenths), "spread") != "pass"


def test_where_a_plateau_hides_the_charge_nothing_is_proved_by_voltage() -> None:
    found = proved([3.28, 3.30, 3.32, 3.30], pack={"chemistry": "lfp", "series": 4, "rated_ah": 4.0})
    assert found.result == "not_yet"
    assert next(c for c in found.checks if c.name == "spread").hidden
    assert any("capacity" in left for left in found.not_proved)
    assert not any("same charge" in said for said in found.proved)


def test_nickel_passes_on_what_rest_shows_and_its_charge_stays_open() -> None:
    pack = {"chemistry": "nimh", "series": 4, "rated_ah": 2.0}
    found = proved([1.30, 1.31, 1.30, 1.30], pack=pack)
    assert found.result == "pass"
    assert any(left.startswith("charge:") for left in found.not_proved)
    assert not any("same charge" in said for said in found.proved)
    assert result(proved([1.30, 1.30, 1.30, 1.15], pack=pack), "spread") == "fail"
    assert result(proved([1.30, 1.30, 1.30, 1.80], pack=pack), "window") == "fail"


def test_more_than_full_by_a_common_meter_is_not_yet_inside() -> None:
    common = {"percent": 0.5, "digits": 2, "resolution_v": 0.01}
    assert result(proved([4.20] * 4, meter=common), "window") == "pass"
    assert result(proved([4.23] * 4, meter=common), "window") == "not_yet"


# Of every chemistry of lithium: charges drawn, volts read off the published curves, and what the charges say held against the answer.
PUBLISHED = {
    "nmc": ("nmc811_chen2020", "nmc532_mohtat2020"),
    "nca": ("nca_kim2011",),
    "lco": ("lco_ramadass2004",),
    "lfp": ("lfp_prada2013",),
}


@given(
    chemistry=st.sampled_from(sorted(PUBLISHED)),
    body=st.floats(0.03, 1.0),
    other=st.floats(0.0, 1.0),
    which=st.integers(0, 1),
    seed=st.integers(0, 2**20),
)
def test_what_lies_apart_in_charge_never_passes_and_what_is_level_never_fails(
    chemistry: str, body: float, other: float, which: int, seed: int
) -> None:
    names = PUBLISHED[chemistry]
    socs, ocv = published(names[which % len(names)])
    noise = np.random.default_rng(seed).normal(0, 0.0005, 4)
    truth = [body, body, body, other]
    volts = [round(float(np.interp(s, socs, ocv) + n), 3) for s, n in zip(truth, noise, strict=True)]
    exact = {"percent": 0.02, "digits": 1, "resolution_v": 0.001}
    found = next(
        c
        for c in proved(
            volts, meter=exact, pack={"chemistry": chemistry, "series": 4, "rated_ah": 4.0}, rest_s=1e6
        ).checks
        if c.name == "spread"
    )
    apart = abs(other - body)
    if apart > 0.11 and max(volts) - min(volts) > 0.01:
        assert found.result != "pass", (volts, found)
    if apart < 0.02:
        assert found.result != "fail" or max(volts) - min(volts) > 0.15, (volts, found)


def test_missing_readings_are_not_yet_and_say_which() -> None:
    half = ProveRequest.model_validate(
        {
            "pack": {"chemistry": "nca", "series": 3, "rated_ah": 4.0},
            "readings": [{"kind": "group", "group": 1, "volts": 4.0}],
            "rest_s": 9999,
        }
    )
    found = prove(half)
    assert found.result == "not_yet"
    assert "Read group 2" in next(c.because for c in found.checks if c.name == "complete")

"""Acceptance limits: from chemistry, meter and rest."""

import math

import numpy as np
import pytest

from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.prove import Proof, ProveRequest, prove
from saldatura.core.spread import spread_limit
from tests.core.test_chemistry import published

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
    assert spread_limit("nca", 4.05, 0.001, DEFAULT_POLICY).limit_v == pytest.approx(0.05 * slope, rel=0.02)


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
    assert "this meter cannot tell" in next(c.because for c in poor.checks if c.name == "spread")
    # Half a volt apart on a meter of tenths is no pass either.
    tenths = {"percent": 1.0, "digits": 2, "resolution_v": 0.1}
    assert result(proved([4.1, 4.1, 3.6, 4.1], meter=tenths), "spread") != "pass"


@pytest.mark.parametrize(
    ("chemistry", "volts"), [("lfp", [3.28, 3.30, 3.32, 3.30]), ("nimh", [1.30, 1.31, 1.30, 1.30])]
)
def test_where_voltage_cannot_tell_nothing_is_proved_by_it(chemistry: str, volts: list[float]) -> None:
    found = proved(volts, pack={"chemistry": chemistry, "series": 4, "rated_ah": 4.0})
    assert found.result == "not_yet"
    assert any("capacity" in left for left in found.not_proved)
    assert not any("same charge" in said for said in found.proved)


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

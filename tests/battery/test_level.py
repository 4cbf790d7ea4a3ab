"""Levelling needs and the gate for every charge."""

import numpy as np
import pytest

from saldatura.battery.level.need import LevelNeed, LevelNeedRequest, level_need
from saldatura.battery.string.hazard import HazardRequest, hazard
from tests.battery.test_chemistry import published
from tests.refusing import refuses


def need(volts: list[float], chemistry: str = "nca", **more: object) -> LevelNeed:
    pack = {"chemistry": chemistry, "series": len(volts), "rated_ah": 4.0}
    groups = [{"group": k + 1, "rest_v": v} for k, v in enumerate(volts)]
    return level_need(LevelNeedRequest.model_validate({"pack": pack, "groups": groups, **more}))


def test_matching_needs_the_charge_between_the_two_rest_voltages() -> None:
    socs, ocv = published("nca_kim2011")
    found = need([4.05, 4.05, 3.6, 4.05], target="match")
    missing = 4.0 * float(np.interp(4.05, ocv, socs) - np.interp(3.6, ocv, socs))
    assert [n.group for n in found.needs] == [3]
    assert found.at_target == [1, 2, 4]
    # Ends at the taper, a little under the target's rest voltage: never over it.
    assert 0.93 * missing < found.needs[0].forecast.charge_ah <= missing


def test_groups_that_must_not_be_charged_are_refused_whatever_the_target() -> None:
    for target in ("full", "match", "storage"):
        found = need([4.0, 1.4, -0.3, 0.0], target=target)
        assert [r.group for r in found.refused] == [2, 3, 4]
        assert all("must be replaced" in r.because for r in found.refused)


@pytest.mark.parametrize(("rest_v", "most_a"), [(1.7, 0.2), (2.2, 0.4), (3.2, 2.0)])
def test_run_flat_groups_get_the_policy_current(rest_v: float, most_a: float) -> None:
    found = need([4.0, rest_v], target="full")
    charge = next(n for n in found.needs if n.group == 2)
    assert charge.current_a == pytest.approx(most_a)
    assert ("Run flat" in charge.note) == (rest_v < 2.5)


def test_a_current_above_one_c_is_refused() -> None:
    with refuses("current_too_high"):
        need([4.0, 3.5], current_a=5.0)


def test_hazard_figures_and_the_voltage_limit() -> None:
    found = hazard(
        HazardRequest.model_validate({"pack": {"chemistry": "li_oxide", "series": 12, "parallel": 2, "rated_ah": 5.0}})
    )
    assert found.energy_wh == pytest.approx(12 * 3.65 * 5.0)
    assert found.highest_v == pytest.approx(50.4)
    # V/(S·(ρ/Q + R_link)) at the strong end of the cylindrical range, 0.04 Ω·Ah, with 0.3 mΩ links.
    assert found.short_circuit_high_a == pytest.approx(50.4 / (12 * (0.04 / 5 + 0.0003)), rel=0.001)
    assert found.refused is None
    over = hazard(HazardRequest.model_validate({"pack": {"chemistry": "li_oxide", "series": 15, "rated_ah": 5.0}}))
    assert "60 V DC" in str(over.refused)

"""Imbalance and its cost, checked against the charge budget done by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.string.balance import Balance, BalanceRequest, balance
from tests.battery.test_chemistry import published

socs = st.lists(st.floats(0.05, 0.95), min_size=2, max_size=12)


def nca(soc: list[float], q: list[float] | None = None, **more: object) -> Balance:
    table = published("nca_kim2011")
    groups = [{"rest_v": float(np.interp(s, *table)), "sigma_v": 0.001} for s in soc]
    for group, capacity in zip(groups, q or [], strict=False):
        group["capacity_ah"] = capacity
    return balance(BalanceRequest.model_validate({"chemistry": "nca", "rated_ah": 4.0, "groups": groups, **more}))


def by_simulation(soc: list[float], q: list[float], step: float = 0.002) -> tuple[float, float, int, int]:
    """Charge in small steps until one group is full, discharge until one is empty: Ah, Ah, and which groups."""
    s, accepted = np.array(soc), 0.0
    while (s < 1).all():
        s, accepted = s + step / np.array(q), accepted + step
    full = int(np.argmax(s)) + 1
    s, given_ah = np.array(soc), 0.0
    while (s > 0).all():
        s, given_ah = s - step / np.array(q), given_ah + step
    return accepted, given_ah, full, int(np.argmin(s)) + 1


@given(soc=socs, data=st.data())
def test_usable_charge_is_what_a_stepwise_charge_and_discharge_finds(soc: list[float], data: st.DataObject) -> None:
    q = data.draw(st.lists(st.floats(3.0, 4.0), min_size=len(soc), max_size=len(soc)))
    found = nca(soc, q)
    accepted, given_ah, full, empty = by_simulation(soc, q)
    assert found.usable_now_ah == pytest.approx(accepted + given_ah, abs=0.03)
    assert found.usable_levelled_ah == pytest.approx(min(q), abs=1e-4)
    lacks = sorted((1 - s) * c for s, c in zip(soc, q, strict=True))
    if lacks[1] - lacks[0] > 0.02:
        assert found.charger_stops.group == full
    holds = sorted(s * c for s, c in zip(soc, q, strict=True))
    if holds[1] - holds[0] > 0.02:
        assert found.tool_stops.group == empty
    assert found.usable_now_low_ah <= accepted + given_ah + 0.03
    assert found.usable_now_high_ah >= min(accepted + given_ah, min(q)) - 0.03


def test_stops_name_group_and_pack_voltage() -> None:
    found = nca([0.9, 0.9, 0.3, 0.9], load_a=8.0, resistance_ohm=0.03)
    socs_full = np.array([0.9, 0.9, 0.3, 0.9]) + 0.1
    table = published("nca_kim2011")
    assert found.charger_stops.pack_v == pytest.approx(np.interp(socs_full, *table).sum(), abs=0.02)
    # Under 8 A and 30 mΩ a group falls to 3.0 V where its rest voltage is 3.24 V.
    end = float(np.interp(3.24, table[1], table[0]))
    assert found.tool_stops.group == 3
    assert found.tool_stops.after_ah == pytest.approx((0.3 - end) * 4.0, abs=0.03)


@given(soc=socs)
def test_order_of_groups_changes_nothing_but_their_numbers(soc: list[float]) -> None:
    there, back = nca(soc), nca(soc[::-1])
    assert there.usable_now_ah == back.usable_now_ah
    assert [g.soc for g in there.groups] == [g.soc for g in back.groups][::-1]


def test_the_pack_voltage_at_a_stop_starts_from_the_readings_and_is_never_negative() -> None:
    found = balance(
        BalanceRequest.model_validate(
            {"chemistry": "nca", "rated_ah": 4.0, "groups": [{"rest_v": 4.1}, {"rest_v": 1.5}, {"rest_v": 4.1}]}
        )
    )
    # Some 0.3 Ah to full: the run-flat group has come up from 1.5 V, but nowhere near its siblings.
    assert 8.4 + 1.5 < found.charger_stops.pack_v < 8.4 + 3.6
    heavy = nca([0.9, 0.5, 0.9], load_a=200.0, resistance_ohm=0.03)
    assert heavy.tool_stops.after_ah == 0
    assert heavy.tool_stops.pack_v >= 0


def test_where_voltage_does_not_tell_no_loss_is_told() -> None:
    groups = [{"rest_v": v, "sigma_v": 0.012} for v in (3.29, 3.26, 3.28, 3.25)]
    found = balance(BalanceRequest.model_validate({"chemistry": "lfp", "rated_ah": 4.0, "groups": groups}))
    assert (found.tells, found.lost_ah, found.lost_fraction) == (False, None, None)
    assert found.usable_now_high_ah - found.usable_now_low_ah > 2.0

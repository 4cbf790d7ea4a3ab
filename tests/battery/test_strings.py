"""Strings side by side: what flows between them, what the readings of each settle, what the whole pack is."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge import JudgeRequest, judge
from saldatura.battery.pack.build import build
from saldatura.battery.pack.drive import ConstantCurrent, GroupCharger, Rest
from saldatura.battery.pack.model import PackState, advance
from saldatura.battery.plan.strings import Group
from saldatura.battery.plan.strings import given as gives
from saldatura.battery.prove.run_time import run_time
from saldatura.battery.prove.run_types import RunTimeRequest
from saldatura.battery.quantities import Pack, TapPoint
from saldatura.battery.reconcile import ReconcileRequest, reconcile
from saldatura.battery.string.hazard import HazardRequest, hazard
from saldatura.battery.verdict import VerdictRequest, verdict
from tests.refusing import refuses

TWO = Pack(chemistry="nmc", series=8, parallel=1, rated_ah=2.0, strings=2)
AS_GROUPS = Pack(chemistry="nmc", series=4, parallel=2, rated_ah=4.0)


def test_a_pack_of_strings_is_the_pack_that_its_label_says() -> None:
    assert (TWO.in_string, TWO.whole_ah, TWO.label) == (4, 4.0, "2 × 4S1P")
    assert TWO.tap_point(3) == TapPoint(tap=3)
    assert [TWO.span(TWO.tap_point(tap)) for tap in (4, 5, 8)] == [(0, 4), (4, 5), (4, 8)]
    with refuses("strings_uneven"):
        Pack(chemistry="nmc", series=7, rated_ah=2.0, strings=2)
    # The same cells, tied at every tap or at the ends only: the same energy, voltage and, but for the links, short-circuit current.
    strings, groups = (hazard(HazardRequest(pack=pack)) for pack in (TWO, AS_GROUPS))
    assert (strings.energy_wh, strings.highest_v) == (groups.energy_wh, groups.highest_v)
    assert strings.short_circuit_high_a == pytest.approx(groups.short_circuit_high_a, rel=0.02)


@given(ratio=st.floats(0.3, 4.0), amps=st.floats(0.2, 8.0))
def test_two_strings_share_a_current_as_two_resistances_do(ratio: float, amps: float) -> None:
    model = build(TWO, 0.6, lost_a_month=0.0)
    scale = np.array([[1.0]] * 4 + [[ratio]] * 4)
    model = replace(model, **{of: getattr(model, of) * scale for of in ("ohmic_ohm", "fast_ohm", "slow_ohm")})
    start = PackState.at_rest(model)
    after, log = advance(model, start, ConstantCurrent(amps=-amps), 0.1, dt=0.1)
    took = (start.soc - after.soc)[:, 0] * TWO.rated_ah * 3600 / 0.1
    # At equal charge nothing but the resistances divides it, and each group of a string carries what its string does.
    assert took[0] / took[4] == pytest.approx(ratio, rel=0.01)
    assert took[0] + took[4] == pytest.approx(amps, rel=1e-3)
    assert np.ptp(took[:4]) < 1e-6 * amps + 1e-9
    assert log.group_v[0, :4].sum() == pytest.approx(log.group_v[0, 4:].sum(), abs=1e-9)


def test_a_string_that_stands_lower_is_poured_into_until_they_stand_alike_and_parted_ones_are_left_alone() -> None:
    model = build(TWO, [0.8] * 4 + [0.6] * 4, lost_a_month=0.0)
    start = PackState.at_rest(model)
    later, log = advance(model, start, Rest(), 6 * 3600, dt=20)
    assert log.group_v[-1, :4].sum() == pytest.approx(log.group_v[-1, 4:].sum(), abs=1e-9)
    assert later.soc[:4].sum() + later.soc[4:].sum() == pytest.approx(start.soc.sum(), abs=1e-3)
    assert abs(later.soc[0, 0] - later.soc[4, 0]) < 0.02
    parted = replace(model, parted=True)
    alone, _ = advance(parted, start, GroupCharger(group=5, volts=4.2, amps=1.0), 600)
    assert np.abs(alone.soc - start.soc)[[0, 1, 2, 3, 5, 6, 7]].max() < 1e-6
    lifted, _ = advance(model, start, GroupCharger(group=5, volts=4.2, amps=1.0), 600)
    assert abs(lifted.soc[0, 0] - start.soc[0, 0]) > 0.005


volts = st.lists(st.floats(3.4, 4.1), min_size=8, max_size=8)


@given(volts=volts, by=st.lists(st.sampled_from(["tap", "group", "none"]), min_size=8, max_size=8))
def test_what_is_read_of_one_string_settles_that_string_and_no_other(volts: list[float], by: list[str]) -> None:
    def told(groups: range, base: int) -> list[dict[str, object]]:
        own = []
        for k in groups:
            if by[k] == "tap":
                own.append({"kind": "tap", "tap": k + 1 - base, "volts": round(sum(volts[groups[0] : k + 1]), 3)})
            elif by[k] == "group":
                own.append({"kind": "group", "group": k + 1 - base, "volts": round(volts[k], 3)})
        return own

    first, second = range(4), range(4, 8)
    both = [*told(first, 0), *told(second, 0)]
    whole = reconcile(
        ReconcileRequest.model_validate({"chemistry": "nmc", "series": 8, "strings": 2, "readings": both})
    )
    for groups, base in ((first, 0), (second, 4)):
        alone = reconcile(
            ReconcileRequest.model_validate({"chemistry": "nmc", "series": 4, "readings": told(groups, base)})
        )
        assert [whole.groups[k].volts for k in groups] == [g.volts for g in alone.groups]
        assert [whole.groups[k].group for k in groups] == [k + 1 for k in groups]
        assert all(set(whole.groups[k].from_readings) <= set(range(len(both))) for k in groups)


def test_an_open_wire_is_told_by_the_number_of_its_own_string() -> None:
    readings = [
        *({"kind": "tap", "tap": k, "volts": round(3.8 * k, 2)} for k in range(1, 5)),
        {"kind": "tap", "tap": 5, "volts": 3.8}, {"kind": "tap", "tap": 6, "volts": 9.6}, {"kind": "tap", "tap": 7, "volts": 11.4},
        {"kind": "tap", "tap": 8, "volts": 15.2}, {"kind": "group", "group": 7, "volts": 1.8},
    ]  # fmt: skip
    found = reconcile(
        ReconcileRequest.model_validate({"chemistry": "nmc", "series": 8, "strings": 2, "readings": readings})
    )
    assert [f.tap for f in found.findings if f.kind == "open_tap"] == [6]
    assert found.next_reading is not None
    assert found.next_reading.model_dump() == {"kind": "span", "from_tap": 5, "to_tap": 7}
    with refuses("two_strings"):
        reconcile(
            ReconcileRequest.model_validate(
                {
                    "chemistry": "nmc",
                    "series": 8,
                    "strings": 2,
                    "readings": [{"kind": "span", "from_tap": 3, "to_tap": 6, "volts": 11.4}],
                }
            )
        )


def test_terminals_are_every_strings_and_a_weak_group_is_found_in_its_own() -> None:
    low = {6: 3.1}
    readings = [{"kind": "group", "group": k, "volts": low.get(k, 3.82 if k < 5 else 4.06)} for k in range(1, 9)]
    readings.append({"kind": "pack", "volts": 15.28})
    said = verdict(VerdictRequest.model_validate({"pack": TWO.model_dump(), "readings": readings}))
    assert said.kind == "imbalanced"
    assert [g.group for g in said.groups if g.state == "low"] == [6]
    assert said.balance is not None
    # What the pack gives is what both strings give.
    assert said.balance.usable_levelled_ah == pytest.approx(4.0)
    assert said.balance.tool_stops.pack_v < 4 * WINDOWS["nmc"].full_v
    judged = judge(
        JudgeRequest.model_validate(
            {
                "pack": TWO.model_dump(),
                "evidence": [
                    *(
                        {"kind": "group_v", "group": k, "volts": 2.1 if k == 6 else 3.9, "rested_h": 10}
                        for k in range(1, 9)
                    ),
                    {"kind": "terminal_v", "volts": 15.6, "rested_h": 10},
                    {"kind": "capacity", "group": 6, "ah": 0.4},
                ],
            }
        )
    )
    assert judged.causes[0].cause in ("weak_group", "dead_group", "leaking_group")
    assert judged.causes[0].at.groups == [6]


def test_a_run_of_strings_is_that_of_the_same_cells_in_groups_and_ends_on_the_weak_one() -> None:
    one = [{"soc": 1.0, "capacity_ah": 2.0, "resistance_ohm": 0.05}]
    asked = {"chemistry": "nmc", "load": {"current_a": 3.0}}
    strings = run_time(RunTimeRequest.model_validate({**asked, "series": 8, "strings": 2, "groups": one}))
    groups = run_time(
        RunTimeRequest.model_validate(
            {**asked, "series": 4, "groups": [{"soc": 1.0, "capacity_ah": 4.0, "resistance_ohm": 0.025}]}
        )
    )
    assert strings.duration_s == pytest.approx(groups.duration_s, rel=0.01)
    assert strings.delivered_ah == pytest.approx(groups.delivered_ah, rel=0.01)
    assert strings.curve.pack_v[0] == pytest.approx(groups.curve.pack_v[0], abs=0.02)
    weak = [{"soc": 1.0, "capacity_ah": 1.0 if k == 6 else 2.0, "resistance_ohm": 0.05} for k in range(1, 9)]
    dragged = run_time(RunTimeRequest.model_validate({**asked, "series": 8, "strings": 2, "groups": weak}))
    assert (dragged.ends.by, dragged.ends.group) == ("group", 6)
    assert dragged.duration_s < 0.75 * strings.duration_s
    got = gives(TWO, (Group(2.0, 0.05),) * 8, 3.0, None)
    assert got.usable_ah == pytest.approx(gives(AS_GROUPS, (Group(4.0, 0.025),) * 4, 3.0, None).usable_ah, rel=0.01)

"""Runs under a load: what comes out is what flows, the first to fall ends it, and figures agree with cells worked out by hand."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.errors import Impossible
from saldatura.battery.prove.run_time import run_time
from saldatura.battery.prove.run_types import RunTime, RunTimeRequest
from tests.searching import examples


def asked(groups: list[dict[str, float]], load: dict[str, object], **more: object) -> RunTime:
    return run_time(
        RunTimeRequest.model_validate(
            {"chemistry": "nmc", "series": len(groups), "groups": groups, "load": load, "hottest_c": 120, **more}
        )
    )


def group(ah: float = 4.0, ohm: float = 0.02, soc: float = 0.95) -> dict[str, float]:
    return {"soc": soc, "capacity_ah": ah, "resistance_ohm": ohm}


def test_a_gentle_run_takes_out_what_lies_between_its_voltages() -> None:
    # At a fiftieth of C a cell stands at its own curve: the charge between where it starts and 3 V under next to no drop.
    found = asked([group()], {"current_a": 0.08}, group_cutoff_v=3.0)
    socs = np.linspace(0, 1, 4001)
    at_end = float(np.interp(3.0 + 0.08 * 0.02 * 1.8, middle_curve("nmc").volts(socs), socs))
    assert found.delivered_ah == pytest.approx(4.0 * (0.95 - at_end), rel=0.01)
    assert found.duration_s == pytest.approx(found.delivered_ah / 0.08 * 3600, rel=1e-3)
    assert (found.ends.by, found.ends.group) == ("group", 1)


@settings(max_examples=examples(15))
@given(
    weak=st.integers(1, 6), ah=st.floats(0.55, 0.85), amps=st.floats(1.0, 8.0), pulses=st.booleans()
)  # fmt: skip
def test_the_weak_group_ends_it_and_what_came_out_is_what_flowed(
    weak: int, ah: float, amps: float, pulses: bool
) -> None:
    groups = [group() for _ in range(6)]
    groups[weak - 1] = group(4.0 * ah)
    load: dict[str, object] = {"current_a": amps}
    if pulses:
        load = {"steps": [{"current_a": amps, "seconds": 8}, {"current_a": 0, "seconds": 12}], "repeat": True}
    found = asked(groups, load, group_cutoff_v=2.8)
    assert (found.ends.by, found.ends.group) == ("group", weak)
    assert found.duration_low_s <= found.duration_s <= found.duration_high_s
    share = 0.4 if pulses else 1.0
    # A run of pulses ends within one.
    assert found.delivered_ah == pytest.approx(amps * found.duration_s * share / 3600, abs=amps * 20 / 3600 + 1e-3)
    assert found.delivered_wh == pytest.approx(found.delivered_ah * np.mean(found.curve.pack_v), rel=0.06)
    assert [len(v) for v in found.curve.group_v] == [len(found.curve.time_s)] * 6


def test_six_alike_run_as_one_does_and_a_power_takes_its_power() -> None:
    one, six = asked([group()], {"current_a": 4.0}), asked([group()] * 6, {"current_a": 4.0})
    assert six.duration_s == pytest.approx(one.duration_s, rel=1e-6)
    assert six.delivered_wh == pytest.approx(6 * one.delivered_wh, rel=1e-3)
    all_for_one = asked([group()] * 2, {"power_w": 60.0})
    assert all_for_one.delivered_wh == pytest.approx(60.0 * all_for_one.duration_s / 3600, rel=0.01)


def test_sag_is_ohms_law_and_cut_offs_of_pack_and_warmth_end_it_too() -> None:
    rest = float(middle_curve("nmc").volts(np.array([0.95]))[0])
    found = asked([group()] * 3, {"current_a": 10.0})
    # The 10 s resistance is what the sag after ten seconds divides to, but for what the slow branch began to add.
    drop = 3 * rest - found.sag[1].pack_v
    assert 10.0 * 3 * 0.02 <= drop <= 10.0 * 3 * 0.02 * 1.12
    assert found.sag[0].pack_v > found.sag[1].pack_v
    by_pack = asked([group(), group(3.6), group()], {"current_a": 4.0}, cutoff_v=10.5, group_cutoff_v=2.6)
    assert by_pack.ends.by == "pack"
    assert by_pack.curve.pack_v[-1] == pytest.approx(10.5, abs=0.1)
    hot = asked([group(ohm=0.05)], {"current_a": 16.0}, hottest_c=45, ambient_c=25)
    assert (hot.ends.by, hot.hottest_c) == ("temperature", 45)


@pytest.mark.parametrize(
    ("load", "more", "field"),
    [
        ({"current_a": 4.0}, {"group_cutoff_v": 4.3}, "group_cutoff_v"),
        ({"current_a": 4.0}, {"cutoff_v": 13.0}, "cutoff_v"),
        ({"steps": [{"current_a": 1.0, "seconds": 5}], "repeat": False}, {}, "load"),
    ],
)
def test_what_cannot_be_names_its_field(load: dict[str, object], more: dict[str, object], field: str) -> None:
    with pytest.raises(Impossible) as refused:
        asked([group()] * 3, load, **more)
    assert refused.value.field == field

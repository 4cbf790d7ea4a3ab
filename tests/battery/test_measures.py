"""Resistance, leak, sensors and capacity against the bench model and closed forms."""

import math

import numpy as np
import pytest
from pydantic import ValidationError

from saldatura.battery.errors import Impossible
from saldatura.battery.measures import words as measures_words
from saldatura.battery.measures.capacity import Capacity, CapacityRequest, capacity
from saldatura.battery.measures.sensor import SensorRequest, sense
from saldatura.battery.measures.step import StepRequest, step
from saldatura.battery.pack import CellFault, ConstantCurrent, JointFault, PackState, Rest, advance, build, group_volts
from saldatura.battery.quantities import Pack
from saldatura.battery.string import words as string_words
from saldatura.battery.string.compare import compare
from saldatura.battery.string.compare_types import CompareRequest, Comparison
from saldatura.battery.string.path import Path, PathRequest, power_path
from tests.refusing import refuses
from tests.saying import says

PACK = Pack(chemistry="nmc", series=6, parallel=2, rated_ah=5.0)
SEED = 8
RNG = np.random.default_rng(SEED)


@pytest.fixture(autouse=True)
def same_noise() -> None:
    """Each test reads with the same noise, in whatever order they come."""
    RNG.bit_generator.state = np.random.default_rng(SEED).bit_generator.state


def as_set(volts: np.ndarray, noise_v: float = 0.001) -> list[dict]:
    return [{"volts": round(float(v + RNG.normal(0, noise_v)), 4), "sigma_v": noise_v} for v in volts]


def compared(then: list[dict], now: list[dict], **more: object) -> Comparison:
    return compare(CompareRequest.model_validate({"pack": PACK.model_dump(), "then": then, "now": now, **more}))


def test_a_load_step_gives_each_groups_resistance_and_names_the_bad_joint() -> None:
    model = build(PACK, 0.7, [JointFault(kind="weld", group=4, cell=c, ohm=0.06) for c in (1, 2)], resistance_ohm=0.02)
    state = PackState.at_rest(model)
    _, log = advance(model, state, ConstantCurrent(amps=-8.0), 10)
    found = compared(as_set(group_volts(model, state)), as_set(log.group_v[-1]), now_a=-8.0)
    # 10 s resistance as built, with what the charge that left takes off the rest voltage (22 mAh of 5 Ah: 4 mV by 8 A) and the first of the
    # slow branch; two welds of 60 mΩ in parallel on top: 30 mΩ. Two readings of 1 mV lie 0.18 mΩ apart by 8 A.
    ohms = [g.ohm for g in found.groups]
    assert ohms[0] == pytest.approx(0.0209, abs=5 * 0.00018)
    assert ohms[3] == pytest.approx(0.0509, abs=5 * 0.00018)
    assert found.usual_ohm == pytest.approx(0.0209, abs=5 * 0.00018)
    assert [g.group for g in found.groups if g.odd] == [4]
    assert says(string_words.group_has_times, found.says)


def test_sound_siblings_are_not_called_odd() -> None:
    model = build(PACK, 0.7)
    state = PackState.at_rest(model)
    _, log = advance(model, state, ConstantCurrent(amps=-5.0), 10)
    odd = 0
    for _ in range(100):
        found = compared(as_set(group_volts(model, state)), as_set(log.group_v[-1]), now_a=-5.0)
        odd += sum(g.odd for g in found.groups)
    assert odd == 0


def test_two_rest_sets_give_the_leak_that_the_model_has() -> None:
    ohm = 1500.0
    model = build(PACK, 0.55, [CellFault(kind="soft_short", group=2, size=ohm)])
    state = PackState.at_rest(model)
    days = 6.0
    after, _ = advance(model, state, Rest(), days * 86400, dt=60)
    found = compared(as_set(group_volts(model, state)), as_set(group_volts(model, after)), days=days)
    true_mah = float(group_volts(model, state)[1]) / ohm * 24 * 1000
    group = found.groups[1]
    assert [g.group for g in found.groups if g.odd] == [2]
    assert group.leak_mah_day == pytest.approx(true_mah, rel=0.25)
    assert abs(group.leak_mah_day - true_mah) < 3 * group.sigma_mah_day
    assert group.leak_ua == pytest.approx(group.leak_mah_day / 24 * 1000)
    assert "Group 2 loses" in " ".join(found.says)


def test_a_group_that_was_charged_between_is_no_negative_leak() -> None:
    then = [{"volts": v, "sigma_v": 0.001} for v in (4.09, 4.09, 3.71, 4.09, 4.09, 4.09)]
    found = compared(then, [{"volts": 4.088, "sigma_v": 0.001}] * 6, days=2)
    assert found.groups[2].leak_mah_day is None
    assert says(string_words.group_rose, found.says)
    assert not any(g.odd for g in found.groups)


def test_a_leak_that_voltage_cannot_tell_is_not_told() -> None:
    flat = {"pack": {**PACK.model_dump(), "chemistry": "lfp"}, "days": 5}
    found = compared([{"volts": 3.30, "sigma_v": 0.001}] * 6, [{"volts": 3.29, "sigma_v": 0.001}] * 6, **flat)
    assert all(g.leak_mah_day is None for g in found.groups)
    assert says(string_words.cannot_tell_from_voltage, found.says[0])
    same = compared(as_set(np.full(6, 3.8)), as_set(np.full(6, 3.8)), days=0.1)
    assert same.kind == "moved"
    assert says(string_words.LEAK_TWO_REST_SETS, same.says)
    few = compared([{"volts": 3.8}, {}, {}, {}, {}, {}], [{"volts": 3.7}, {}, {}, {}, {}, {}], now_a=-2.0)
    assert "siblings" in few.says[0]


@pytest.mark.parametrize(
    ("asked", "state", "celsius"),
    [
        # 10 kΩ, B 25/50 = 3950 K: 12.493 kΩ at 20 °C, 3.588 kΩ at 50 °C, 33.9 kΩ at 0 °C in its makers' tables.
        ({"ohm": 12_493, "b_k": 3950}, "believable", 20.0),
        ({"ohm": 3_588, "b_k": 3950}, "hot", 50.0),
        ({"ohm": 33_900, "b_k": 3950}, "implausible", 0.0),
        ({"ohm": 1e9}, "open", None),
        ({"ohm": 2}, "shorted", None),
        ({"ohm": 11.5}, "ask_unit", None),
        ({"ohm": 20.5, "r25_ohm": 1e7, "b_k": 500}, "shorted", None),
        ({}, "not_read", None),
        ({"kind": "diodes", "junctions": 3, "volts": 1.818}, "believable", 22.0),
        ({"kind": "diodes", "junctions": 3, "volts": 4.5}, "open", None),
        ({"kind": "diodes", "junctions": 3, "volts": 0.1}, "shorted", None),
    ],
)
def test_a_sensor_says_its_temperature_or_what_it_is_not(asked: dict, state: str, celsius: float | None) -> None:
    found = sense(SensorRequest.model_validate({"ambient_c": 22, **asked}))
    assert found.state == state
    assert found.celsius == (None if celsius is None else pytest.approx(celsius, abs=0.3))
    assert found.says


def log_text(delimiter: str, comma: bool, header: str) -> str:
    rows = [(0.0, 12.60, 0.0), *[(float(t), 12.5 - t / 3600, 2.0) for t in range(10, 3611, 60)]]
    lines = [delimiter.join(f"{x:.4f}".replace(".", "," if comma else ".") for x in row) for row in rows]
    return "\n".join([header, *lines])


@pytest.mark.parametrize(
    ("delimiter", "comma", "header"),
    [
        (",", False, "time,voltage,current"),
        (";", True, "Zeit time (s);Voltage [V];Current (A)"),
        ("\t", False, "Elapsed\tU\tI"),
    ],
)
def test_a_testers_file_is_counted_whatever_its_separators(delimiter: str, comma: bool, header: str) -> None:
    found = capacity(CapacityRequest(text=log_text(delimiter, comma, header), rated_ah=2.5))
    # 2 A for 3600 s and a ramp of 10 s up to it; the voltage falls 1 V in the hour.
    assert found.ah == pytest.approx(2.0 + 10 * 1.0 / 3600, abs=1e-3)
    assert found.wh == pytest.approx(2 * (12.4972 + 11.4972) / 2, rel=2e-3)
    assert found.soh == pytest.approx(found.ah / 2.5, abs=1e-3)
    assert found.ohm == pytest.approx((12.60 - (12.5 - 10 / 3600)) / 2.0, rel=1e-3)
    assert found.decimal == ("comma" if comma else "point")


def test_the_count_ends_at_the_cut_off_and_milliamps_and_clock_times_are_understood() -> None:
    text = "Time,Voltage,Current mA\n0:00:00,4.0,1000\n0:30:00,3.5,1000\n1:00:00,3.0,1000\n1:30:00,2.0,1000"
    whole = capacity(CapacityRequest(text=text, rated_ah=2.0))
    assert whole.ah == pytest.approx(1.5)
    assert capacity(CapacityRequest(text=text, rated_ah=2.0, low_v=2.9)).ah == pytest.approx(1.0)
    assert math.isclose(whole.seconds, 5400)


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("time,voltage\n0,4\n1,4", "column_missing"),
        ("time,voltage,current\n0,4,1", "too_few_rows"),
        ("time,voltage,current\n0,4,1\n1,four,1", "row_unread"),
        ("time,voltage,current\n5,4,1\n1,4,1", "time_goes_backwards"),
        ("time,voltage,current\n0,4,0\n1,4,0", "current_always_in"),
        ("time,voltage,current\n0,4,1\n1", "row_unread"),
        ("time,voltage,current\n0,4,nan\n1,4,1", "row_unread"),
    ],
)
def test_a_file_that_cannot_be_counted_is_one_line(text: str, code: str) -> None:
    with refuses(code):
        capacity(CapacityRequest(text=text, rated_ah=2.0))


@pytest.mark.parametrize(
    ("then", "now", "leaks"),
    [
        # Near empty the voltage itself is the evidence: a fall of more than 20 mV below its siblings in a day.
        ([3.9, 3.9, 1.8, 3.9], [3.89, 3.89, 1.2, 3.89], [3]),
        ([3.9, 3.9, 3.0, 3.9], [3.89, 3.89, 2.96, 3.89], [3]),
        ([3.9, 3.9, 3.0, 3.9], [3.89, 3.89, 2.985, 3.89], []),
        # Where most leak, the median lies among them.
        ([3.9] * 5, [3.85, 3.85, 3.85, 3.899, 3.898], [1, 2, 3]),
        ([3.9] * 4, [3.89, 3.887, 3.89, 3.888], []),
    ],
)
def test_leaks_are_told_near_empty_and_in_a_majority(then: list[float], now: list[float], leaks: list[int]) -> None:
    pack = {"chemistry": "nmc", "series": len(then), "rated_ah": 4.0}
    found = compared(
        [{"volts": v, "sigma_v": 0.002} for v in then], [{"volts": v, "sigma_v": 0.002} for v in now], days=1, pack=pack
    )
    assert [g.group for g in found.groups if g.odd] == leaks
    assert (says(string_words.no_group_leaks_out, found.says)) == (not leaks)
    assert "rose by −" not in " ".join(found.says)


def test_units_in_headers_and_charge_beside_discharge_are_honoured() -> None:
    rows = "\n".join(f"{m},{4000 - 9 * m},{1000}" for m in range(0, 121, 10))
    found = capacity(CapacityRequest(text=f"time (min),voltage (mV),current (mA)\n{rows}", rated_ah=2.5))
    assert (found.ah, found.seconds, found.end_v) == (pytest.approx(2.0), pytest.approx(7200), pytest.approx(2.92))
    main = capacity(
        CapacityRequest(text="Time [ms];Volt;Main current (A)\n0;4.0;2\n1800000;3.5;2\n3600000;2.9;2", rated_ah=2.0)
    )
    assert main.ah == pytest.approx(2.0)
    both = "t,U,I\n0,3.0,1\n3600,4.1,1\n3601,4.0,-1\n7200,2.9,-1"
    told = capacity(CapacityRequest(text=both, rated_ah=1.0))
    assert (told.ah, told.charge_ah) == (pytest.approx(1.0, abs=0.01), pytest.approx(1.0, abs=0.01))


def test_a_count_that_cannot_be_right_is_flagged() -> None:
    early = capacity(CapacityRequest(text="t,U,I\n0,4.1,1\n1800,3.8,1\n3600,3.7,1", rated_ah=2.0))
    assert any("stopped" in flag for flag in early.flags)
    much = capacity(CapacityRequest(text="t,U,I\n0,4.1,10\n1800,3.3,10\n3600,2.8,10", rated_ah=2.0))
    assert says(measures_words.rated_capacity_is_more, much.flags)


def test_a_slow_log_says_nothing_of_what_was_there_at_once_and_small_steps_have_their_doubt() -> None:
    slow = step(
        StepRequest.model_validate(
            {"points": [{"at_s": t, "volts": v, "amps": a} for t, v, a in ((0, 4.1, 0), (10, 4.0, 5), (20, 3.99, 5))]}
        )
    )
    assert slow.at_once_ohm is None
    assert "at once" not in slow.says.split(";")[0]
    small = step(
        StepRequest.model_validate(
            {"points": [{"at_s": t, "volts": v, "amps": a} for t, v, a in ((0, 3.80, 0), (0.5, 3.79, 0.5))]}
        )
    )
    # One digit of 10 mV, rounded on both sides, over half an ampere: about 8 mΩ of doubt on 20 mΩ.
    assert small.sigma_ohm == pytest.approx(0.01 / math.sqrt(12) * math.sqrt(2) / 0.5, rel=0.05)
    assert says(measures_words.STEP_IS_TOO_SMALL, small.says)


def log(*runs: tuple[float, float, float], rated: float = 2.5) -> Capacity:
    """A file of runs of (A, first V, last V), an hour each with an hour's rest between; positive discharges."""
    rows, at = ["time (s),voltage (V),current (A)"], 0
    for amps, first, last in runs:
        rows += [f"{at + t},{first + (last - first) * t / 3600:.3f},{amps}" for t in range(0, 3601, 60)]
        rows += [f"{at + 3601 + t},{last + 0.1:.3f},0" for t in range(0, 3600, 600)]
        at += 7300
    return capacity(CapacityRequest(text="\n".join(rows), rated_ah=rated))


def test_two_discharges_are_two_and_what_did_not_begin_full_or_finish_is_no_capacity() -> None:
    whole = (2.0, 4.15, 2.95)
    twice = log(whole, (-2.0, 3.2, 4.2), whole)
    assert [round(d.ah, 1) for d in twice.discharges] == [2.0, 2.0]
    assert twice.ah == pytest.approx(2.0, rel=0.01)
    assert twice.charge_ah == pytest.approx(2.0, rel=0.01)
    assert log(whole, whole).ah == pytest.approx(2.0, rel=0.01)
    assert [log(r).result for r in (whole, (2.0, 3.8, 2.95), (2.0, 4.15, 3.7))] == [
        "whole",
        "not_from_full",
        "did_not_finish",
    ]
    only = log((-2.0, 3.2, 4.2))
    assert (only.result, only.ah, only.discharges) == ("no_discharge", 0.0, [])
    assert says(measures_words.THERE_IS_NO_DISCHARGE, only.flags[0])


def test_a_pulsed_discharge_is_one() -> None:
    rows = ["time (s),voltage (V),current (A)"]
    for k in range(60):
        rows += [
            f"{k * 90},{4.15 - k * 0.02:.3f},3",
            f"{k * 90 + 60},{4.13 - k * 0.02:.3f},3",
            f"{k * 90 + 61},{4.2 - k * 0.02:.3f},0",
            f"{k * 90 + 89},{4.21 - k * 0.02:.3f},0",
        ]
    found = capacity(CapacityRequest(text="\n".join(rows), rated_ah=3.0))
    assert len(found.discharges) == 1
    assert found.ah == pytest.approx(60 * 60 * 3 / 3600, rel=0.02)


def test_all_groups_falling_together_is_no_weather_and_sets_of_another_pack_are_refused() -> None:
    pack = {"chemistry": "nmc", "series": 4, "rated_ah": 4.0}

    def beside(now: list[float], **more: object) -> Comparison:
        body = {"pack": pack, "then": [{"volts": 3.90}] * 4, "now": [{"volts": v} for v in now], "days": 7, **more}
        return compare(CompareRequest.model_validate(body))

    fell = beside([3.72] * 4)
    # By the published curves 180 mV from 3.90 V are some 0.22 of the charge: 0.9 Ah in a week.
    assert fell.shared_mah_day == pytest.approx(0.22 * 4000 / 7, rel=0.2)
    assert says(string_words.shared_fall_says, fell.says[0])
    assert beside([3.895] * 4).shared_mah_day is None
    with pytest.raises(ValidationError):
        beside([3.72] * 4, days=-7)
    with pytest.raises(Impossible):
        beside([3.72] * 3)


def test_a_group_of_iron_phosphate_that_falls_off_the_plateau_leaks() -> None:
    def beside(low: float) -> list[bool]:
        body = {
            "pack": {"chemistry": "lfp", "series": 4, "rated_ah": 5.0},
            "then": [{"volts": 3.30}] * 4,
            "now": [{"volts": v} for v in (3.3, 3.3, 3.3, low)],
            "days": 7,
        }
        return [g.odd for g in compare(CompareRequest.model_validate(body)).groups]

    assert beside(3.0) == [False, False, False, True]
    assert beside(3.29) == [False] * 4


def test_signs_and_diodes_on_the_power_path() -> None:
    def found(volts: float) -> Path:
        chain = [
            {"node": "fuse", "part": "fuse", "volts": 20.1},
            {"node": "end", "part": "discharge switch", "volts": volts},
        ]
        return power_path(PathRequest.model_validate({"string_v": 20.1, "chain": chain}))

    assert (found(-20.0).finding, found(19.5).finding, found(20.05).finding) == ("polarity", "body_diode", None)
    assert found(20.05).good == "end"

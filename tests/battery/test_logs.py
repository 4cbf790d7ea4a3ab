"""Logs in fifteen invented layouts, each written from the same discharge: the same seconds, volts, amps and charge out of every one."""

import itertools
from collections.abc import Callable
from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.api.logs import text_of
from saldatura.battery.errors import Impossible
from saldatura.battery.logs import words as logs_words
from saldatura.battery.logs.columns import guessed
from saldatura.battery.logs.layout import layout_of
from saldatura.battery.logs.read import Log, read_log
from saldatura.formats import battery_data
from tests.refusing import refuses
from tests.saying import says

# A rest, then 1.25 A for an hour: (s, V, A, °C), a row each 30 s. What comes out is 1.25 Ah less half of the first step.
STEP_S = 30
TRUE = [
    (k * STEP_S, 4.15 - (0.05 + k * STEP_S / 3600 if k else 0.0), 1.25 if k else 0.0, 22.0 + k / 40) for k in range(121)
]
AH = sum((a[2] + b[2]) / 2 * STEP_S for a, b in itertools.pairwise(TRUE)) / 3600


def hms(s: float) -> str:
    return f"{int(s) // 3600}:{int(s) // 60 % 60:02d}:{int(s) % 60:02d}"


def german(text: str) -> str:
    return text.replace(".", ",")


def at(s: float, form: str) -> str:
    return (datetime(2026, 11, 30, 23, 40) + timedelta(seconds=s)).strftime(form)


def table(header: str, row: Callable[[float, float, float, float], str], above: str = "", end: str = "\n") -> str:
    return above + end.join([header, *(row(*r) for r in TRUE)]) + end


LAYOUTS: dict[str, str | bytes] = {
    "battery data labels": table("Test Time / s,Voltage / V,Current / A,Surface Temperature T1 / degC", lambda t, v, a, c: f"{t},{v:.4f},{a:.3f},{c:.1f}"),
    "battery data names": table("test_time_second,cycle_count,voltage_volt,current_ampere", lambda t, v, a, c: f"{t},1,{v:.4f},{a:.3f}"),
    "semicolons and decimal commas": table("Zeit;Spannung;Strom", lambda t, v, a, c: german(f"{t};{v:.4f};{a:.3f}")),
    "byte-order mark and carriage returns": ("﻿" + table("Time(s);Voltage(V);Current(A)", lambda t, v, a, c: german(f"{t:.1f};{v:.4f};{a:.3f}"), end="\r\n")).encode(),
    "a row of units": table("Time\tVoltage\tCurrent\tTemp", lambda t, v, a, c: f"{t}\t{v * 1000:.1f}\t{a * 1000:.0f}\t{c:.1f}").replace("Temp\n", "Temp\n(s)\t(mV)\t(mA)\t(degC)\n"),
    "a preamble with its own commas": table("Record,Time,Volt,Amp", lambda t, v, a, c: f"{t // 30},{hms(t)},{v:.4f},{-a:.3f}", above="Tester report, slot 3\nStarted, 2026-11-30\n\nCut-off, 2.8 V\n"),
    "minutes and millivolts": table("Elapsed (min),U (mV),I (mA)", lambda t, v, a, c: f"{t / 60},{v * 1000:.1f},{a * 1000:.1f}"),
    "milliseconds": table("t[ms]|u[V]|i[A]", lambda t, v, a, c: f"{t * 1000}|{v:.4f}|{a:.3f}"),
    "dates with a time, past midnight": table("Timestamp;Battery voltage (V);Battery current (A);Set current (A)", lambda t, v, a, c: f"{at(t, '%d.%m.%Y %H:%M:%S')};{v:.4f};{a:.3f};1.300"),
    "clock alone, past midnight": table("Clock time,Voltage V,Current A", lambda t, v, a, c: f"{at(t, '%H:%M:%S')},{v:.4f},{a:.3f}"),
    "ISO stamps and quotes": table('"time","voltage","current"', lambda t, v, a, c: f'"{at(t, "%Y-%m-%dT%H:%M:%S")}","{v:.4f}","{a:.3f}"'),
    "quoted decimal commas": table("time,voltage,current", lambda t, v, a, c: f'{t},"{v:.4f}","{a:.3f}"'.replace(".", ",")),
    "energy, power and cells beside": table("Time s,Cell1 V,Cell2 V,Power W,Energy Wh,Capacity mAh,Voltage V,Current A", lambda t, v, a, c: f"{t},{v / 2:.4f},{v / 2:.4f},{v * a:.3f},0.1,{a * t / 3.6:.1f},{v:.4f},{a:.3f}"),
    "units that nobody wrote": table("time,volt,curr", lambda t, v, a, c: f"{t},{v * 1000:.0f},{a * 1000:.0f}"),
    "no header at all": table("0,4.1500,0.000", lambda t, v, a, c: f"{t},{v:.4f},{a:.3f}").split("\n", 1)[1],
    "latin letters": table("Time;Voltage;Current;T (°C)", lambda t, v, a, c: german(f"{t};{v:.4f};{a:.3f};{c:.1f}")).encode("latin-1"),
    "sixteen bits a letter": table("Time;Voltage;Current", lambda t, v, a, c: german(f"{t};{v:.4f};{a:.3f}")).encode("utf-16"),
}  # fmt: skip


def read(layout: str | bytes) -> Log:
    return read_log(layout if isinstance(layout, str) else text_of(layout))


@pytest.mark.parametrize("name", LAYOUTS)
def test_each_layout_gives_the_same_discharge(name: str) -> None:
    log = read(LAYOUTS[name])
    rows = log.rows
    assert len(rows) == len(TRUE)
    np.testing.assert_allclose(rows[:, 0], [r[0] for r in TRUE], atol=0.51)
    np.testing.assert_allclose(rows[:, 1], [r[1] for r in TRUE], atol=6e-4)
    np.testing.assert_allclose(np.abs(rows[:, 2]), [r[2] for r in TRUE], atol=6e-4)
    assert abs(float(np.trapezoid(np.abs(rows[:, 2]), rows[:, 0])) / 3600 - AH) < 1e-3
    if "degC" in str(LAYOUTS[name]) or name == "latin letters":
        np.testing.assert_allclose(rows[:, 3], [r[3] for r in TRUE], atol=0.06)
    if name in ("units that nobody wrote", "no header at all"):
        # What had to be supposed is said.
        assert log.notes


def test_what_goes_out_in_the_open_format_s_names_comes_in_the_same() -> None:
    rng = np.random.default_rng()
    rows = np.column_stack(
        [np.arange(500) * 0.5, 3.0 + rng.random(500), rng.normal(0, 2, 500), 20 + 10 * rng.random(500)]
    )
    text = battery_data.written(rows)
    assert text.splitlines()[0] == "Test Time / s,Voltage / V,Current / A,Surface Temperature T1 / degC"
    np.testing.assert_allclose(battery_data.read(text), rows, atol=6e-3)
    np.testing.assert_allclose(battery_data.read(text)[:, :3], rows[:, :3], atol=6e-6)
    assert battery_data.written(battery_data.read(text)) == text


def test_columns_that_somebody_chose_are_used_and_wrong_ones_named() -> None:
    text = "a,b,c,d\n" + "\n".join(f"{k},{4.1 - k / 100:.3f},{k * 2},{1.0}" for k in range(10))
    with refuses("column_missing"):
        read_log(text)
    log = read_log(text, {"time_s": 2, "volts": 1, "amps": 3})
    assert log.rows[3].tolist()[:3] == [6.0, 4.07, 1.0]
    with refuses("no_such_column"):
        read_log(text, {"time_s": 9, "volts": 1, "amps": 3})


def test_steps_that_each_begin_at_nought_are_put_one_behind_the_other() -> None:
    text = "step time s,voltage,current\n" + "".join(
        f"{k},{4.0 - step / 10:.2f},1.0\n" for step in range(3) for k in range(10)
    )
    log = read_log(text)
    assert (np.diff(log.rows[:, 0]) == 1.0).all()
    assert any("anew" in note for note in log.notes)


def test_a_row_that_is_none_is_left_out_and_said_and_many_are_none_of_a_log() -> None:
    rows = [f"{k},{4.1 - k / 1000:.4f},1.0" for k in range(400)]
    rows[200] = "--- pause ---"
    log = read_log("time,voltage,current\n" + "\n".join(rows))
    assert len(log.rows) == 399
    assert [bad.line for bad in log.bad] == [202]
    assert says(logs_words.rows_left_out, log.notes)
    for k in range(0, 400, 20):
        rows[k] = f"{k},four,1.0"
    with refuses("row_unread"):
        read_log("time,voltage,current\n" + "\n".join(rows))


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "empty"),
        ("hello", "no_table"),
        ("PK\x03\x04zip", "another_kind_of_file"),
        ("a;b\n1;2", "column_missing"),
        ("time,voltage,current\n0,4,1\n", "too_few_rows"),
    ],
)
def test_what_is_no_log_is_refused_in_a_line(text: str, code: str) -> None:
    with refuses(code):
        read_log(text)


def test_the_set_point_is_not_the_current_nor_a_cell_the_pack() -> None:
    layout = layout_of(str(LAYOUTS["energy, power and cells beside"]))
    assert guessed(layout)[0] == {"time_s": 0, "volts": 6, "amps": 7}


@given(st.one_of(st.text(max_size=400), st.text(alphabet='time,voltage;current 019.:-"\n', max_size=300)))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        log = read_log(text)
    except Impossible:
        return
    assert np.isfinite(log.rows[:, :3]).all()
    assert (np.diff(log.rows[:, 0]) >= 0).all() or log.channels

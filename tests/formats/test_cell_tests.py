"""Tester's files: column names of the open format and plain ones, either decimal mark, bad rows listed and the rest kept."""

import math

import pytest

from saldatura.battery.errors import Impossible
from saldatura.formats.cell_tests import Found, guessed, is_log, results_of
from saldatura.formats.table import read_table
from saldatura.formats.type_table import read_types, write_types
from tests.refusing import refuses


def brought(text: str, rated: float = 2.5) -> Found:
    log = read_table(text, of_values=True)
    table = log if is_log(guessed(log)) else read_table(text)
    return results_of(table, guessed(table), lambda _name: (rated, None), "file")


def test_one_row_a_cell_with_decimal_commas_and_units_in_the_header() -> None:
    found = brought(
        "Zelle / Cell;Capacity / mAh;Internal resistance / mOhm;OCV / V\nK-1;2.431,5;24,8;3,652\nK-2;2398;25,1;3,648\n"
    )
    assert [(name, t.capacity_ah, t.dc_ohm, t.rest_v) for _, name, t in found.tests] == [
        ("K-1", pytest.approx(2.4315), pytest.approx(0.0248), 3.652),
        ("K-2", pytest.approx(2.398), pytest.approx(0.0251), 3.648),
    ]
    assert not found.bad


@pytest.mark.parametrize(
    "header",
    ["Channel,Test Time / s,Voltage / V,Current / A", "channel,test_time_second,voltage_volt,current_ampere", "Channel,Time (min),Voltage (mV),Current (mA)"],
)  # fmt: skip
def test_a_log_of_several_channels_is_counted_channel_by_channel(header: str) -> None:
    minutes, milli = "min" in header, "mV" in header
    rows = []
    for k in range(0, 3601, 60):
        for channel, amps in (("A", 1.0), ("B", 0.5)):
            # 0.4 s after the start a current flows, and the voltage falls at once by 50 mΩ of it.
            now = 0.0 if k == 0 else amps
            volts = 4.1 - 0.05 * now - 0.0002 * k
            scale = 1000 if milli else 1
            rows.append(f"{channel},{k / 60 if minutes else k},{volts * scale:.4f},{now * scale:.3f}")
    found = brought(header + "\n" + "\n".join(rows) + "\n")
    assert [name for _, name, _ in found.tests] == ["A", "B"]
    first, second = (t for _, _, t in found.tests)
    # Sixty minutes less half of the first, by the trapezium.
    assert first.capacity_ah == pytest.approx(1.0 * (3600 - 30) / 3600, abs=2e-4)
    assert second.capacity_ah == pytest.approx(0.5 * (3600 - 30) / 3600, abs=2e-4)
    assert first.dc_ohm == pytest.approx(0.05 + 0.0002 * 60 / 1.0, rel=0.01)


def test_bad_rows_are_listed_by_row_and_the_rest_is_kept() -> None:
    found = brought(
        "cell,capacity_ah,dc_ohm\nK-1,2.4,0.02\n,2.4,0.02\nK-3,plenty,0.02\nK-4,-2,0.02\nK-5,2.3\nK-6,2.2,0.03\n"
    )
    assert [name for _, name, _ in found.tests] == ["K-1", "K-6"]
    assert [(bad.row, bad.because) for bad in found.bad] == [
        (3, "no cell is named"), (4, "“plenty” is not a number"), (5, "capacity_ah must be at least 0.001"), (6, "fewer columns than the header has"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("PK\x03\x04\x14\x00\x06", "spreadsheet file renamed"),
        ("%PDF-1.7\n1 0 obj", "printed page"),
        ("cell,capacity\n", "no rows below a header"),
        ("only one column\n1\n2\n", "one column only"),
        ("a\x00b,c\n1,2\n", "not text"),
    ],
)
def test_what_is_no_table_is_refused_in_one_line(text: str, says: str) -> None:
    with pytest.raises(Impossible) as caught:
        read_table(text)
    assert caught.value.field == "text"
    assert says in caught.value.message


def test_a_file_that_says_nothing_of_cells_asks_for_its_columns() -> None:
    with refuses("no_column_of_names"):
        brought("foo,bar\n1,2\n")
    with refuses("no_column_of_values"):
        brought("cell,colour\nK-1,green\n")


def test_the_catalogue_goes_out_and_comes_back_the_same() -> None:
    text = "name,size,chemistry,rated_ah,discharge_a,ohm,price,curve\nColle,18650,nmc,2.5,18,0.024,4.2,0:3 0.5:3.68 1:4.19\nVetta,,nca,3.4,,,,\nBad,,lead,7,,,,\n"
    types, bad = read_types(read_table(text))
    assert [t.name for t in types] == ["Colle", "Vetta"]
    assert [(b.row, b.because.split(" ")[0]) for b in bad] == [(4, "chemistry")]
    again, none = read_types(read_table(write_types(types)))
    assert again == types
    assert not none
    assert math.isclose(types[0].curve[1].volts, 3.68)

"""State of charge from rest voltage."""

import csv
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import saldatura.battery
from saldatura.battery.cell.curves import CurveBank, curves_for
from saldatura.battery.cell.soc import soc_from_rest
from saldatura.battery.cell.windows import WINDOWS

OCV = Path(saldatura.battery.__file__).parent / "data" / "ocv"


def published(name: str) -> tuple[np.ndarray, np.ndarray]:
    rows = [(float(r["soc"]), float(r["ocv_v"])) for r in csv.DictReader((OCV / f"{name}.csv").open())]
    return np.array(rows).T[0], np.array(rows).T[1]


@pytest.mark.parametrize(
    ("chemistry", "table"),
    [("nca", "nca_kim2011"), ("lco", "lco_ramadass2004"), ("nmc", "nmc811_chen2020"), ("nmc", "nmc532_mohtat2020")],
)
@given(soc=st.floats(0.03, 0.97))
def test_a_cell_on_a_published_curve_lies_inside_the_range(chemistry: Any, table: str, soc: float) -> None:
    socs, ocv = published(table)
    found = soc_from_rest(chemistry, float(np.interp(soc, socs, ocv)), 0.003)
    assert found.soc_low <= soc <= found.soc_high
    if len(WINDOWS[chemistry].curves) == 1:
        assert found.soc == pytest.approx(soc, abs=0.003)


@given(volts=st.floats(2.9, 4.19), sigma=st.floats(0.001, 0.02))
def test_more_doubt_never_narrows_and_unknown_oxide_is_wider_than_any_known(volts: float, sigma: float) -> None:
    narrow, wide = soc_from_rest("nca", volts, sigma), soc_from_rest("nca", volts, 2 * sigma)
    assert wide.soc_low <= narrow.soc_low <= narrow.soc <= narrow.soc_high <= wide.soc_high
    unknown = soc_from_rest("li_oxide", volts, sigma)
    assert unknown.soc_low <= narrow.soc_low
    assert unknown.soc_high >= narrow.soc_high


def test_flat_iron_phosphate_refuses_to_tell_and_its_ends_tell() -> None:
    assert not soc_from_rest("lfp", 3.27, 0.005).tells
    assert soc_from_rest("lfp", 2.6, 0.005).tells
    assert soc_from_rest("lfp", 3.5, 0.005).soc > 0.9
    assert not soc_from_rest("nimh", 1.3, 0.005).tells


def test_high_voltage_pouch_goes_on_above_the_published_end_and_is_full_at_its_own_voltage() -> None:
    for curve in curves_for("lipo_hv"):
        at_420 = float(np.interp(4.20, curve.ocv_v, curve.soc))
        assert 0.8 < at_420 < 0.95
        assert float(curve.volts(1.0)) == pytest.approx(4.35)


@given(soc=st.floats(-0.02, 1.2))
def test_curves_looked_up_together_are_the_curves_one_by_one(soc: float) -> None:
    curves = [*curves_for("li_oxide"), *curves_for("lfp"), *curves_for("nca")]
    together = CurveBank(curves).volts(np.full(len(curves), soc))
    assert together == pytest.approx([float(curve.volts(soc)) for curve in curves], abs=2e-4)

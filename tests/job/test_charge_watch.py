"""A running charge minded by its log: sound cells are left alone, sick ones stopped or told of, the finish found from the taper.

The logs come from a cell stepped here: one curve of its chemistry, two resistive branches of other time constants than the
program's, a leak where one is wanted.
"""

import math
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.cell.curves import curves_for
from saldatura.battery.charge.fit import Series, fit_charge
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.job.facts import ChargeBegun
from saldatura.job.minding.charge import siblings_moved, stop_now, watch
from tests.searching import examples

RATED, FULL_V, AMPS = 4.0, 4.2, 2.0


@dataclass
class Cell:
    """What it holds (Ah), what it resists at 10 s (ohm), and what leaks beside it (ohm)."""

    holds: float = RATED
    ohm: float = 0.03
    leak_ohm: float = math.inf
    curve: int = 1

    def log(self, soc: float, every_s: float = 20.0, hours: float = 8.0, celsius: float = 25.0) -> np.ndarray:
        """Rows of seconds, volts, amps, °C until the current has fallen to a twentieth of the rated one."""
        curve = curves_for("nmc")[self.curve]
        branch, rows, at = [0.0, 0.0], [], 0.0
        while at < hours * 3600:
            inner = float(curve.volts(soc)) + sum(branch)
            amps = max(min(AMPS, (FULL_V - inner) / self.ohm), 0.0)
            volts = inner + amps * self.ohm
            went = amps - volts / self.leak_ohm
            soc += went * every_s / 3600 / self.holds
            for k, (ohm, tau) in enumerate(((0.35 * self.ohm, 90.0), (0.45 * self.ohm, 420.0))):
                branch[k] += (amps * ohm - branch[k]) * (1 - math.exp(-every_s / tau))
            at += every_s
            rows.append((at, volts, amps, celsius))
            if amps <= RATED / 20:
                break
        return np.array(rows)


def asked(soc: float, curve: int = 1) -> tuple[ChargeBegun, ChargeRequest]:
    """The charge as it was begun by a rested reading of a cell that stands there."""
    start_v = float(curves_for("nmc")[curve].volts(soc))
    request = ChargeRequest(
        chemistry="nmc", capacity_ah=RATED, resistance_ohm=0.03, start_rest_v=start_v, current_a=AMPS, full_v=FULL_V,
        cutoff_a=RATED / 20,
    )  # fmt: skip
    run = ChargeBegun(
        at=datetime(2026, 3, 2, tzinfo=UTC), group=1, target="full", start_v=start_v, target_v=FULL_V, current_a=AMPS,
        cutoff_a=RATED / 20, forecast_s=7000, forecast_low_s=6000, forecast_high_s=9000, forecast_ah=3.0, look_again_s=[],
        channel="twin supply", driven=True,
    )  # fmt: skip
    return run, request


@settings(max_examples=examples(6))
@given(
    holds=st.floats(0.85, 1.15), ohm=st.floats(0.7, 1.4), soc=st.floats(0.05, 0.6), curve=st.integers(0, 1)
)  # fmt: skip
def test_a_sound_cell_is_left_to_its_taper_and_nothing_rings(holds: float, ohm: float, soc: float, curve: int) -> None:
    run, request = asked(soc, curve)
    rows = Cell(holds * RATED, ohm * 0.03, curve=curve).log(soc)
    series = Series.from_rows(rows)
    for share in (0.1, 0.3, 0.5, 0.7, 0.9):
        so_far = Series.from_rows(rows[: max(int(share * len(rows)), 1)])
        assert stop_now(run, request, so_far, DEFAULT_POLICY) is None
        assert watch(run, request, so_far, False, False, DEFAULT_POLICY).alarms == []
    stop = stop_now(run, request, series, DEFAULT_POLICY)
    assert stop is not None
    assert stop.why == "tapered"


@pytest.mark.parametrize(("holds", "ohm"), [(0.85, 1.3), (1.0, 1.0), (1.1, 0.8)])
def test_the_finish_is_found_from_the_taper_and_the_range_narrows(holds: float, ohm: float) -> None:
    _, request = asked(0.3)
    rows = Cell(holds * RATED, ohm * 0.03).log(0.3)
    end = float(rows[-1, 0])
    spans = []
    for share, within in ((0.5, 0.08), (0.9, 0.015)):
        fit = fit_charge(request, Series.from_rows(rows[rows[:, 0] <= share * end]), False, False, DEFAULT_POLICY)
        assert fit is not None
        assert fit.duration_s == pytest.approx(end, rel=within)
        assert fit.duration_low_s <= end <= fit.duration_high_s
        spans.append(fit.duration_high_s - fit.duration_low_s)
    assert spans[1] < spans[0] / 2


def test_a_group_that_holds_little_rings_before_it_is_full() -> None:
    run, request = asked(0.3)
    rows = Cell(0.5 * RATED).log(0.3)
    late = Series.from_rows(rows[: len(rows) * 8 // 10])
    [alarm] = watch(run, request, late, False, False, DEFAULT_POLICY).alarms
    assert alarm.kind == "too_fast"
    assert "it holds 1." in alarm.says or "it holds 2." in alarm.says


def test_charge_that_goes_elsewhere_rings_and_is_stopped() -> None:
    run, request = asked(0.3)
    rows = Cell(leak_ohm=1.9).log(0.3, hours=3)
    rang = next(
        n
        for n in range(10, len(rows))
        if watch(run, request, Series.from_rows(rows[:n]), False, False, DEFAULT_POLICY).alarms
    )
    stopped = next(
        n for n in range(10, len(rows)) if stop_now(run, request, Series.from_rows(rows[:n]), DEFAULT_POLICY)
    )
    assert (
        watch(run, request, Series.from_rows(rows[:rang]), False, False, DEFAULT_POLICY).alarms[0].kind == "not_rising"
    )
    found = stop_now(run, request, Series.from_rows(rows[:stopped]), DEFAULT_POLICY)
    assert found is not None
    assert found.why == "no_progress"
    assert rang <= stopped


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda rows: rows[-1].__setitem__(1, 4.24), "over_voltage"),
        (lambda rows: rows[-1].__setitem__(3, 45.0), "too_warm"),
        (lambda rows: rows[-10:, 2].fill(0.0), "no_current"),
    ],
)
def test_what_is_dangerous_switches_it_off_at_once(change: object, why: str) -> None:
    run, request = asked(0.3)
    rows = Cell().log(0.3)[:100]
    assert stop_now(run, request, Series.from_rows(rows), DEFAULT_POLICY) is None
    change(rows)
    found = stop_now(run, request, Series.from_rows(rows), DEFAULT_POLICY)
    assert found is not None
    assert found.why == why
    warm = Cell().log(0.3, celsius=41.0)[:100]
    assert [a.kind for a in watch(run, request, Series.from_rows(warm), False, False, DEFAULT_POLICY).alarms] == [
        "warm"
    ]


def test_a_group_near_its_target_is_not_done_before_its_current_flows() -> None:
    run, request = asked(0.985)
    first = np.array([[0.3, FULL_V - 0.015, 0.0, 25.0]])
    assert stop_now(run, request, Series.from_rows(first), DEFAULT_POLICY) is None
    flowing = np.vstack([first, [2.0, FULL_V - 0.004, 1.1, 25.0]])
    assert stop_now(run, request, Series.from_rows(flowing), DEFAULT_POLICY) is None
    done = stop_now(run, request, Series.from_rows(np.vstack([flowing, [60.0, FULL_V, 0.1, 25.0]])), DEFAULT_POLICY)
    assert done is not None
    assert done.why == "tapered"


def test_a_run_flat_group_has_so_long_to_climb_and_a_sibling_none_to_move() -> None:
    run, request = asked(0.3)
    run = run.model_copy(update={"start_v": 1.8, "target_v": 3.0, "current_a": 0.2, "cutoff_a": 0.0})
    request = request.model_copy(update={"start_rest_v": 1.8, "full_v": 3.0, "current_a": 0.2, "cutoff_a": None})
    time_s = np.arange(60.0, 5000.0, 60.0)
    rows = np.column_stack([time_s, 1.8 + time_s * 1e-5, np.full(len(time_s), 0.2), np.full(len(time_s), 25.0)])
    longest = DEFAULT_POLICY.revive_minutes * 60
    before, after = rows[time_s <= longest - 60], rows[time_s <= longest + 120]
    assert stop_now(run, request, Series.from_rows(before), DEFAULT_POLICY) is None
    assert "precharge_long" in [
        a.kind for a in watch(run, request, Series.from_rows(before), False, False, DEFAULT_POLICY).alarms
    ]
    found = stop_now(run, request, Series.from_rows(after), DEFAULT_POLICY)
    assert found is not None
    assert found.why == "precharge_long"
    risen = np.column_stack([time_s, np.full(len(time_s), 3.0), np.full(len(time_s), 0.2), np.full(len(time_s), 25.0)])
    done = stop_now(run, request, Series.from_rows(risen[:20]), DEFAULT_POLICY)
    assert done is not None
    assert done.why == "tapered"
    [moved] = siblings_moved({1: 3.8, 2: 3.9, 3: 3.9}, {1: 3.95, 2: 3.905, 3: 3.86}, {1}, 60.0)
    assert (moved.kind, "Group 3" in moved.says) == ("sibling", True)

"""A look at a running charge, against charges worked out apart: it draws the end nearer, and never before itself."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.charge import words as charge_words
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.looks import Seen, sharpen
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import DEFAULT_POLICY
from tests.saying import says

RATED = 4.0
OHM = usual_resistance_ohm("nmc", RATED)


def asked(ah: float = RATED, ohm: float = OHM) -> ChargeRequest:
    return ChargeRequest(
        chemistry="nmc", capacity_ah=ah, resistance_ohm=ohm, start_rest_v=3.55, current_a=2.0, full_v=4.2, cutoff_a=0.2
    )


def looked(true: ChargeRequest, share: float) -> tuple[Seen, float]:
    """What a group that is `true` shows after that share of its charge, and when it is over."""
    ran = charge(true)
    i = round(share * (len(ran.curve.time_s) - 1))
    return Seen(
        at_s=ran.curve.time_s[i], volts=round(ran.curve.volts[i], 2), amps=round(ran.curve.amps[i], 2)
    ), ran.duration_s


@pytest.mark.parametrize("ah", [0.7, 0.85, 1.0])
@pytest.mark.parametrize("share", [0.7, 0.9])
def test_late_looks_draw_the_end_of_a_worn_group_nearer_than_the_forecast_had_it(ah: float, share: float) -> None:
    look, ends = looked(asked(ah * RATED, OHM * 1.6), share)
    first, seen = charge(asked()), sharpen(asked(), [look], False, False, DEFAULT_POLICY)
    assert seen is not None
    assert seen.fits
    assert seen.duration_low_s <= ends <= seen.duration_high_s
    if ah < 1:
        assert abs(seen.duration_s - ends) <= abs(first.duration_s - ends) + 0.03 * ends


@given(at=st.floats(60, 20_000), volts=st.floats(3.3, 4.25), amps=st.floats(0, 2.2))
def test_whatever_was_seen_the_end_is_never_before_the_look_and_the_range_holds_its_middle(
    at: float, volts: float, amps: float
) -> None:
    seen = sharpen(asked(), [Seen(at_s=at, volts=volts, amps=amps)], False, False, DEFAULT_POLICY)
    assert seen is not None
    told = (seen.duration_low_s, seen.duration_s, seen.duration_high_s)
    assert all(math.isfinite(t) for t in told)
    if seen.fits:
        assert at <= told[0] <= told[1] <= told[2]
    else:
        assert says(charge_words.WHAT_IT_SHOWS_FITS, seen.says)


def test_a_second_look_and_a_measured_capacity_leave_less_open() -> None:
    true = asked(0.8 * RATED, OHM * 1.3)
    early, late = looked(true, 0.4)[0], looked(true, 0.8)[0]
    wide = [sharpen(asked(), looks, False, False, DEFAULT_POLICY) for looks in ([early], [early, late])]
    known = sharpen(asked(0.8 * RATED), [early], True, False, DEFAULT_POLICY)
    assert all(s is not None for s in (*wide, known))
    widths = [s.duration_high_s - s.duration_low_s for s in (*wide, known) if s is not None]
    assert widths[1] < widths[0]
    assert widths[2] < widths[0]


def test_nickel_has_no_taper_to_look_at_and_no_look_tells_nothing() -> None:
    nickel = ChargeRequest(chemistry="nimh", capacity_ah=2.6, resistance_ohm=0.03, start_rest_v=1.2, current_a=0.26)
    assert sharpen(nickel, [Seen(at_s=60, volts=1.4)], False, False, DEFAULT_POLICY) is None
    assert sharpen(asked(), [], False, False, DEFAULT_POLICY) is None

"""The robust score of siblings."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.limits.acceptance import ODD_Z
from saldatura.battery.robust import robust_z

values = st.lists(st.floats(-100, 100), min_size=5, max_size=15)


@given(values=values, scale=st.floats(0.1, 10), shift=st.floats(-50, 50))
def test_the_score_knows_no_unit_and_no_order(values: list[float], scale: float, shift: float) -> None:
    sigmas = [1.0] * len(values)
    found = robust_z(values, sigmas)
    again = robust_z([scale * v + shift for v in values], [scale] * len(values))
    assert again == pytest.approx(found, abs=0.11)  # given to a tenth
    assert robust_z(values[::-1], sigmas) == found[::-1]


@given(values=st.lists(st.floats(9.5, 10.5), min_size=5, max_size=15), far=st.floats(20, 1000))
def test_one_that_is_far_off_never_hides_itself(values: list[float], far: float) -> None:
    found = robust_z([*values, far], [0.5] * (len(values) + 1))
    assert found[-1] is not None
    assert found[-1] > ODD_Z
    assert all(z is not None and abs(z) < ODD_Z for z in found[:-1])


def test_what_is_missing_has_no_score_and_agreement_beyond_the_meter_no_weight() -> None:
    assert robust_z([None, None], [1.0, 1.0]) == [None, None]
    # Equal to the last digit but one: without the meter's doubt its score would have no bound.
    assert robust_z([1.0, 1.0, None, 1.0, 1.002], [0.001] * 5) == [0.0, 0.0, None, 0.0, 2.0]

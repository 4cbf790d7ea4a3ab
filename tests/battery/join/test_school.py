"""The line by amperes a strip: as the school says it for its own strip, and of the same heat on the same face for another."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.join.school import by_school, school_a


def test_its_own_strip_is_as_it_says() -> None:
    assert school_a("nickel", 8, 0.15, 1) == pytest.approx((5, 10))
    assert [by_school(a, (5, 10)) for a in (4.9, 5, 7, 10, 10.1)] == ["inside", "inside", "between", "between", "above"]


@given(
    width=st.floats(3, 30), thick=st.floats(0.05, 0.5), layers=st.integers(1, 3),
    metal=st.sampled_from([("nickel", 0.070), ("plated_steel", 0.15), ("copper", 0.0172)]),
)  # fmt: skip
def test_another_strip_makes_the_same_heat_on_the_same_face(
    width: float, thick: float, layers: int, metal: tuple[str, float]
) -> None:
    name, rho = metal
    amps = school_a(name, width, thick, layers)[1]  # type: ignore[arg-type]
    # W a metre of length, over the face's width: I²·ρ/(w·t)/w.
    heat = amps**2 * rho / (width * thick * layers) / width
    usual = 10**2 * 0.070 / (8 * 0.15) / 8
    assert heat == pytest.approx(usual, rel=1e-9)

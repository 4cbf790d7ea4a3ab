"""Sizes of cells as people type them."""

import pytest

from saldatura.battery.cell.sizes import diameter_named, size_named


@pytest.mark.parametrize(
    ("typed", "size"),
    [("SC", "sub-C"), ("sub C 2 Ah", "sub-C"), ("Sub-C", "sub-C"), ("18650", "18650"), ("18650 new", "18650"), ("aa", "AA"), ("21700-50", "21700"),
     ("scooter", None), ("186500", None), ("", None), ("22.5", None)],
)  # fmt: skip
def test_a_size_is_known_by_its_name(typed: str, size: str | None) -> None:
    assert size_named(typed) == size


def test_a_diameter_may_be_given_by_the_size() -> None:
    assert [diameter_named(v) for v in ("SC", 18650, 18650.0, 22.4, True, None)] == [22.5, 18.4, 18.4, 22.4, True, None]

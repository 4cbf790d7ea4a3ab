"""Grades: by the shop's rules with a reason each, and what no rule moves."""

import math
import statistics
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.shop.cells import Drawer, graded
from saldatura.shop.cells import words as cells_words
from saldatura.shop.cells.types import CellTested, CellTook, TypeEntered, WrongTestFact
from tests.saying import says

T0 = datetime(2026, 3, 1, tzinfo=UTC)
KIND = TypeEntered(id=1, at=T0, name="Colle", chemistry="nmc", rated_ah=2.5)
NICKEL = TypeEntered(id=2, at=T0, name="Malga", chemistry="nimh", rated_ah=2.6)


def drawer(*cells: list[dict[str, Any]], kind: TypeEntered = KIND) -> Drawer:
    """A drawer of cells c1, c2 …, each with its tests a day apart."""
    facts: list[Any] = [(None, None, kind)]
    number = 10
    for n, tests in enumerate(cells, start=1):
        facts.append((n, f"c{n}", CellTook(id=number, at=T0, type=kind.name, origin="reclaimed")))
        for d, test in enumerate(tests):
            number += 1
            facts.append(
                (n, f"c{n}", CellTested.model_validate({"at": T0 + timedelta(days=20 * d), "id": number, **test}))
            )
        number += 1
    return Drawer().with_facts(facts)


def grade(*tests: dict[str, Any], policy: Policy = DEFAULT_POLICY, kind: TypeEntered = KIND) -> tuple[str, str]:
    found = graded(drawer(list(tests), kind=kind), policy)[1]
    return found.grade, found.because[0] if found.because else ""


@pytest.mark.parametrize(
    ("ah", "expected"), [(2.25, "first"), (2.24, "second"), (1.875, "second"), (1.87, "light"), (1.37, "not_for_packs")]
)  # fmt: skip
def test_capacity_is_graded_against_the_rating(ah: float, expected: str) -> None:
    assert grade({"capacity_ah": ah})[0] == expected


def test_a_shop_draws_its_own_lines() -> None:
    assert grade({"capacity_ah": 2.2}, policy=Policy(first_share=0.85))[0] == "first"


@pytest.mark.parametrize("seen", ["dent", "leak", "swollen", "reversed"])
def test_what_was_once_seen_bars_a_cell_whatever_it_holds_and_whoever_looks_again(seen: str) -> None:
    got, why = grade({"capacity_ah": 2.5, "seen": [seen]}, {"seen": []})
    assert got == "not_for_packs"
    assert seen in why or seen == "leak"


def test_a_cell_once_under_the_floor_or_reversed_never_goes_into_a_pack() -> None:
    assert grade({"capacity_ah": 2.5, "rest_v": 0.9}, {"rest_v": 3.7}) == (
        "not_for_packs", "it rested at 0.90 V, under the floor of 1.5 V",
    )  # fmt: skip
    assert grade({"capacity_ah": 2.6, "rest_v": -0.2}, kind=NICKEL)[0] == "not_for_packs"
    # A nickel cell has no floor but zero.
    assert grade({"capacity_ah": 2.6, "rest_v": 0.2}, kind=NICKEL)[0] == "first"


def test_resistance_is_held_against_the_siblings_by_a_robust_score() -> None:
    cells = [[{"capacity_ah": 2.5, "dc_ohm": 0.025 + 0.0003 * k}] for k in range(9)]
    of = graded(drawer(*cells, [{"capacity_ah": 2.5, "dc_ohm": 0.045}]), DEFAULT_POLICY)
    assert [of[n].grade for n in range(1, 10)] == ["first"] * 9
    assert of[10].grade == "light"
    assert of[10].z is not None
    # The logarithm's distance from the median, over 1.4826 times the median distance.
    logs = [math.log(0.025 + 0.0003 * k) for k in range(9)] + [math.log(0.045)]
    middle = statistics.median(logs)
    assert of[10].z == pytest.approx(
        (logs[9] - middle) / (1.4826 * statistics.median(abs(v - middle) for v in logs)), rel=1e-6
    )
    # Two cells are no siblings to be measured against.
    two = graded(drawer([{"capacity_ah": 2.5, "dc_ohm": 0.02}], [{"capacity_ah": 2.5, "dc_ohm": 0.2}]), DEFAULT_POLICY)
    assert {two[1].grade, two[2].grade} == {"first"}


def test_self_discharge_lowers_the_grade_and_a_leak_bars() -> None:
    # Some 0.65 V over the charge at this height: a fall of 4 mV in 20 days is about a hundredth a month, 80 mV a fifth.
    assert grade({"capacity_ah": 2.5, "rest_v": 3.700}, {"rest_v": 3.696})[0] == "first"
    leaks, why = grade({"capacity_ah": 2.5, "rest_v": 3.700}, {"rest_v": 3.620})
    assert leaks == "not_for_packs"
    assert says(cells_words.loses_month_at_rest, why)


def test_a_test_taken_back_counts_no_more() -> None:
    held = drawer([{"capacity_ah": 2.5}, {"seen": ["dent"]}])
    wrong = held.cells[1].tests[-1].id
    back = held.with_facts([(1, "c1", WrongTestFact(id=99, at=T0, test=wrong, reason="another cell"))])
    assert graded(held, DEFAULT_POLICY)[1].grade == "not_for_packs"
    assert graded(back, DEFAULT_POLICY)[1].grade == "first"

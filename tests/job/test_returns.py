"""What came back: the curve against a published table, and what a plan makes of it."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.plan import repairs
from saldatura.battery.plan.own_record import ShopReturns
from saldatura.battery.plan.types import PlanRequest
from saldatura.job.returns import Outing, ReturnedKind, kept_curve, returns_of, shop_returns
from tests.refusing import refuses

NOW = datetime(2026, 6, 1, tzinfo=UTC)

# Weeks in remission under 6-MP of 21 patients, and whether it ended; Freireich and others, Blood 21 (1963), as tabled in every textbook.
WEEKS = [6, 6, 6, 7, 10, 13, 16, 22, 23, 6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35]
ENDED = [True] * 9 + [False] * 12
TABLED = {6: 0.857, 7: 0.807, 10: 0.753, 13: 0.690, 16: 0.627, 22: 0.538, 23: 0.448}


def test_the_curve_is_the_published_one() -> None:
    found = kept_curve([float(w) for w in WEEKS], ENDED)
    stepped = {p.days: p.kept for p in found[1:-1]}
    assert stepped == {week: pytest.approx(kept, abs=6e-4) for week, kept in TABLED.items()}
    # Its band at 10 weeks by Greenwood's variance on log(-log S), worked by hand: 3 of 21, 1 of 17, 1 of 15.
    of = next(p for p in found if p.days == 10)
    assert (of.low, of.high) == (pytest.approx(0.503, abs=2e-3), pytest.approx(0.889, abs=2e-3))
    assert found[-1].days == 35
    assert found[-1].kept == pytest.approx(0.448, abs=6e-4)


@given(st.lists(st.tuples(st.floats(0.01, 3000), st.booleans()), min_size=1, max_size=40))
def test_a_curve_only_falls_within_its_band(told: list[tuple[float, bool]]) -> None:
    found = kept_curve([d for d, _ in told], [b for _, b in told])
    shares = [p.kept for p in found]
    assert shares == sorted(shares, reverse=True)
    assert shares[0] == 1
    assert all(0 <= p.low <= p.kept + 1e-12 and p.kept <= p.high + 1e-12 <= 1 + 1e-9 for p in found)
    assert found[-1].days == max(d for d, _ in told)
    # Where nobody is lost from sight the curve is the plain share.
    if all(back for _, back in told):
        middle = sorted(d for d, _ in told)[len(told) // 2]
        at = [p.kept for p in found if p.days <= middle][-1]
        assert at == pytest.approx(sum(d > middle for d, _ in told) / len(told))


def went(days: float, back: float | None = None, kind: ReturnedKind = "level") -> Outing:
    at = NOW - timedelta(days=days)
    return Outing(
        job_id=1, pack_name="lamp", kind=kind, went=at, back=None if back is None else at + timedelta(days=back)
    )


def test_a_plan_counts_only_what_was_out_long_enough_to_tell() -> None:
    told = shop_returns([went(10), went(400), went(400, back=20), went(400, back=200), went(50, back=30)], NOW)
    assert (told.tried, told.soon, told.later) == (4, 2, 1)
    assert told.years == pytest.approx((400 + 200) / 365.25)
    curves = returns_of([went(400), went(400, back=20), went(10, kind="recell")], NOW).curves
    assert [(c.kind, c.went, c.back) for c in curves] == [("level", 2, 1), ("recell", 1, 0)]
    assert "No pack has been out for 90 days" in curves[1].says


LEAKY = {
    "pack": {"chemistry": "nmc", "series": 4, "rated_ah": 2.5, "kind": "power_tool", "age_years": 2.0},
    "causes": [{"cause": "imbalance", "probability": 0.9, "at": {"groups": [2]}}],
    "groups": [{"group": g, "rest_v": 3.6 if g == 2 else 3.9} for g in range(1, 5)],
}


def level(returns: ShopReturns | None) -> tuple[float, float]:
    request = PlanRequest.model_validate({**LEAKY, "returns": {"level": returns} if returns else {}})
    found = next(r for r in repairs(request).repairs if r.repair == "level")
    return found.chance, found.years_high


def test_returns_move_chance_and_years_the_way_they_went() -> None:
    chance, years = level(None)
    worse, _ = level(ShopReturns(tried=20, soon=10))
    better, same = level(ShopReturns(tried=40, soon=0, years=40))
    assert worse < 0.75 * chance < chance <= better <= max(chance, 0.98)
    assert same == years
    _, fewer = level(ShopReturns(tried=20, soon=0, later=10, years=2))
    # Ten back in two years of service, beside eight packs' worth of the years expected.
    assert fewer < 0.75 * years
    with refuses("more_back_than_out"):
        ShopReturns(tried=1, soon=1, later=1)

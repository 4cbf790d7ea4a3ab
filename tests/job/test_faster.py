"""The record played again, against what can be worked out by hand."""

from datetime import UTC, datetime, timedelta

import pytest

from saldatura.job.shop_record.faster import faster_of
from saldatura.job.took import ChannelRun, Took

MONDAY = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
ALWAYS = [(MONDAY, MONDAY + timedelta(days=400))]


def at(hours: float) -> datetime:
    return MONDAY + timedelta(hours=hours)


def job(number: int, *runs: tuple[str, float, float], ready: float) -> Took:
    told = [ChannelRun(run="charge", channel=c, from_at=at(a), to_at=at(b)) for c, a, b in runs]
    return Took(
        job_id=number, pack_name="", kind="level", opened_at=at(0), signed_at=at(30), outcome="handed_back", ready=at(ready),
        hands={"read": 6.0, "charge": 6.0 * len(runs)}, runs=told,
    )  # fmt: skip


def test_one_more_charger_saves_what_was_waited_for_it() -> None:
    # Two packs, each six minutes read, six to begin a charge of ten hours; both due after eleven. One charger: the second ends ten hours later.
    both = [job(1, ("charger", 0.2, 10.2), ready=11), job(2, ("charger", 10.2, 20.2), ready=11)]
    told = faster_of(both, ALWAYS, MONDAY, 1, 7, 5.0, {"charger": 9200.0})
    assert told.late_h == pytest.approx(9.3, abs=0.15)
    best = told.options[0]
    assert (best.what, best.late_h) == ("charger", pytest.approx(told.late_h))
    # Twenty hours of charging within the thirty of the record; 9200 of money at 5 for an hour.
    assert best.busy == pytest.approx(20 / 30, abs=0.01)
    assert best.weeks == pytest.approx(9200 / (best.late_h * 5 / (30 / 24 / 7)), rel=0.02)
    assert next(o for o in told.options if o.what == "hands").late_h == pytest.approx(0, abs=0.2)


def test_what_ran_side_by_side_runs_side_by_side_again() -> None:
    one = job(1, ("left", 0.3, 8.3), ("right", 0.4, 8.4), ready=9.5)
    assert faster_of([one], ALWAYS, MONDAY, 1, 7, None, {}).late_h == 0
    after = job(1, ("left", 0.3, 8.3), ("right", 8.5, 16.5), ready=9.5)
    assert faster_of([after], ALWAYS, MONDAY, 1, 7, None, {}).late_h == pytest.approx(7, abs=0.3)

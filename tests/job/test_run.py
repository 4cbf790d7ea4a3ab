"""Probe runs: what each scheme asks for, and that "only what is needed" needs no more than it must."""

from datetime import UTC, datetime

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.meter import Meter
from saldatura.battery.quantities import GroupPoint, Pack, PackPoint, Point, SpanPoint, TapPoint, span_of
from saldatura.battery.reconcile import ReconcileRequest, reconcile
from saldatura.job.facts import ReadingFact
from saldatura.job.run import asked_by, between

TRUE = np.array([4.01, 3.98, 4.02, 4.00, 3.97, 4.03, 3.99, 4.00])
PACK = Pack(chemistry="nmc", series=len(TRUE), rated_ah=4.0)


def facts(points: list[Point], barred: tuple[Point, ...] = ()) -> list[ReadingFact]:
    taps = np.concatenate(([0.0], np.cumsum(TRUE)))
    made = []
    for n, point in enumerate([*points, *barred]):
        black, red = span_of(point, PACK.series)
        volts = None if n >= len(points) else round(float(taps[red] - taps[black]), 3)
        at = datetime(2026, 3, 2, tzinfo=UTC)
        made.append(ReadingFact(id=n + 1, set_id=1, at=at, point=point, volts=volts, supersedes=None, reason=""))
    return made


def determined(points: list[Point]) -> list[bool]:
    readings = [{**f.point.model_dump(), "volts": f.volts} for f in facts(points)]
    request = {"chemistry": "nmc", "series": PACK.series, "readings": readings, "meter": Meter().model_dump()}
    return [g.determined for g in reconcile(ReconcileRequest.model_validate(request)).groups]


two_taps = (
    st.tuples(st.integers(0, 8), st.integers(0, 8)).filter(lambda p: p[0] != p[1]).map(lambda p: between(*p, PACK))
)


@given(taken=st.lists(two_taps, max_size=9, unique=True))
def test_the_fewest_touches_settle_every_group(taken: list[Point]) -> None:
    asked = [p for p, _ in asked_by(PACK, "needed", [], facts(taken)) if p.kind != "pack"]
    # Independent count: each touch can tie at most one more set of taps together, so as many as sets less one.
    joined = np.eye(9, dtype=bool)
    for point in taken:
        a, b = span_of(point, 8)
        joined[a, b] = joined[b, a] = True
    for _ in range(9):
        joined = joined @ joined
    assert len(asked) == len({tuple(row) for row in joined}) - 1
    assert all(determined([*taken, *asked]))
    for left in range(len(asked)):
        assert not all(determined([*taken, *asked[:left], *asked[left + 1 :]]))


def test_a_tap_that_cannot_be_reached_is_gone_round() -> None:
    taken: list[Point] = [TapPoint(tap=k) for k in (1, 2, 4, 5, 6, 7, 8)]
    asked = asked_by(PACK, "needed", [], facts(taken, barred=(TapPoint(tap=3),)))
    assert asked[0][0] == GroupPoint(group=3)
    barred = (TapPoint(tap=3), GroupPoint(group=3), GroupPoint(group=4))
    assert [p for p, _ in asked_by(PACK, "needed", [], facts(taken, barred))] == [PackPoint()]


def test_a_doubt_comes_first_and_the_sum_last_and_once() -> None:
    doubt = (TapPoint(tap=2), "would settle it")
    asked = asked_by(PACK, "needed", [], facts([TapPoint(tap=k) for k in range(1, 9)]), doubt)
    assert asked == [doubt, (PackPoint(), "checks the sum")]
    assert asked_by(PACK, "needed", [], facts([*[TapPoint(tap=k) for k in range(1, 9)], PackPoint()])) == []


def test_from_outside_only_what_is_declared_is_asked_for() -> None:
    points = [p for p, _ in asked_by(PACK, "outside", [3, 4], [])]
    assert points == [PackPoint(), TapPoint(tap=3), GroupPoint(group=4), SpanPoint(from_tap=4, to_tap=8)]
    assert [p for p, _ in asked_by(PACK, "outside", [], [])] == [PackPoint()]


def test_the_mixed_run_reads_every_group_twice_over_where_it_can() -> None:
    points = [p for p, _ in asked_by(PACK, "mixed", [], [])]
    assert points == [*[GroupPoint(group=k) for k in range(1, 9)], TapPoint(tap=4), PackPoint()]
    assert all(why for _, why in asked_by(PACK, "mixed", [], []))

"""Pins on photos: the last word on each place holds."""

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.places import NodePlace, SensorPlace, TapPlace
from saldatura.job.facts.photo import PhotoFact, PinFact, pinned

START = datetime(2026, 3, 2, tzinfo=UTC)
PHOTOS = [PhotoFact(id=k, at=START, sha256="a" * 64, width=8, height=8, caption="") for k in (1, 2)]
places = st.one_of(
    st.integers(0, 4).map(lambda k: TapPlace(tap=k)),
    st.sampled_from(["after the fuse", "1"]).map(lambda n: NodePlace(node=n)),
    st.sampled_from(["sensor 1", "1"]).map(lambda n: SensorPlace(sensor=n)),
)
words = st.lists(st.tuples(st.sampled_from([1, 2]), places, st.one_of(st.none(), st.floats(0, 1))), max_size=40)


@given(words=words)
def test_pins_stand_where_they_were_put_last(words: list[tuple]) -> None:
    facts = [
        PinFact(at=START + timedelta(seconds=n), photo=photo, place=place, x=x, y=None if x is None else 1 - x)
        for n, (photo, place, x) in enumerate(words)
    ]
    # A board of its own: each word put on it, or taken off, in order.
    board: dict[int, dict[str, float]] = {1: {}, 2: {}}
    for photo, place, x in words:
        board[photo].pop(repr(place), None)
        if x is not None:
            board[photo][repr(place)] = x
    found = pinned(PHOTOS, facts)
    assert [p.photo.id for p in found] == [1, 2]
    for photo in found:
        assert {repr(pin.place): pin.x for pin in photo.pins} == board[photo.photo.id]
        assert all(pin.y == 1 - pin.x for pin in photo.pins)

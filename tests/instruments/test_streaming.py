"""Meters that stream, in twelve dialects over real ports: no value that was not sent, none of a held display, none old, none torn."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.meter import Meter
from saldatura.formats.meter_lesson import lesson
from saldatura.formats.meter_line import read_line
from saldatura.instruments.rack import Watched
from saldatura.shop.meter_words import MeterWords
from tests.api.conftest import until
from tests.serial_bench import Plugged

# What a meter of each dialect writes: (what it measures, the figure, held) to a line. Written as such meters do, not as the reader reads.
Dialect = Callable[[str, float, bool], bytes]


def plain(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V DC", "ohm": "Ohm", "celsius": "C"}[what]
    return f"  {x:.3f} {unit}{' HOLD' if held else ''}\r\n".encode()


def zero_padded(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "VDC", "ohm": "OHM", "celsius": "degC"}[what]
    return f"{x:+09.3f}{unit},AUTO{',HLD' if held else ''}\n".encode()


def comma(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V", "ohm": "Ω", "celsius": "°C"}[what]
    return f"{x:.3f} {unit}{' H' if held else ''}\r\n".replace(".", ",").encode()


def unit_first(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "DCV", "ohm": "OHM", "celsius": "C"}[what]
    return f"{unit} {x:.4E}{' *HOLD*' if held else ''}\r".encode()


def milli(what: str, x: float, held: bool) -> bytes:
    figure, unit = {"volts": (x * 1000, "mV"), "ohm": (x / 1000, "kOhm"), "celsius": (x, "°C")}[what]
    return f"{figure:.3f}{unit} {'A-HOLD ' if held else ''}AUTO\r\n".encode()


def tabs(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V", "ohm": "ohm", "celsius": "C"}[what]
    return f"2026-12-01 10:11:12\t{x:.4f}\t{unit}\t{'HOLD' if held else '-'}\n".encode()


def semicolons(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "VDC", "ohm": "KOHM", "celsius": "CEL"}[what]
    figure = x / 1000 if what == "ohm" else x
    return f"{figure:.4f};{unit};AUTO;{'FREEZE' if held else 'RUN'}\r\n".encode()


def counted(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V", "ohm": "Ohm", "celsius": "C"}[what]
    return f"0007,{x:.3f},{unit},DC,AUTO{',HOLD' if held else ''}\r\n".encode()


def latin(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V=", "ohm": "Ohm", "celsius": "°C"}[what]
    return f"{'HOLD ' if held else ''}{x:.3f} {unit}\r\n".encode("latin-1")


def spaced_sign(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V", "ohm": "M Ohm", "celsius": "C"}[what]
    figure = x / 1e6 if what == "ohm" else x
    sign = "-" if figure < 0 else "+"
    return f"{sign} {abs(figure):.6f} {unit} {'HLD' if held else ''}\n\r".encode()


def own_words(what: str, x: float, held: bool) -> bytes:
    unit = {"volts": "V", "ohm": "Ohm", "celsius": "C"}[what]
    return f"{'STILL' if held else 'LIVE'} {x:.3f} {unit}\r\n".encode()


def falls_silent(what: str, x: float, held: bool) -> bytes:
    return b"" if held else plain(what, x, False)


DIALECTS = [
    plain, zero_padded, comma, unit_first, milli, tabs, semicolons, counted, latin, spaced_sign, own_words, falls_silent,
]  # fmt: skip


def polled(watched: Watched) -> bool:
    """Poll it, as a step of what is waited for."""
    watched.poll()
    return True


class Hand:
    """A meter of a dialect whose knob, leads and HOLD key somebody works."""

    def __init__(self, dialect: Dialect) -> None:
        self.dialect = dialect
        self.what, self.x, self.held = "volts", 4.112, False

    def says(self) -> bytes:
        return self.dialect(self.what, self.x, self.held)


@contextmanager
def listening(hand: Hand, words: MeterWords | None = None) -> Iterator[tuple[Watched, Plugged]]:
    device = Plugged(says=hand.says)
    watched = Watched.streaming("meter", "m", device.address, Meter(), words or MeterWords())
    try:
        yield watched, device
    finally:
        watched.link.close()
        device.unplug()


def lines_of(watched: Watched, hand: Hand) -> list[str]:
    """What it sends from now on: what lies there is of before, and the first line after it may be."""
    watched.poll()
    began = time.monotonic()
    found: list[str] = []

    def came() -> bool:
        watched.poll()
        found[:] = [h.line.text for h in watched.link.heard if h.at > began][1:]
        return len(found) >= 3 or (not hand.says() and time.monotonic() - began > 0.3)

    until(came, 10)
    return found


@pytest.mark.parametrize("dialect", DIALECTS, ids=lambda d: d.__name__)
def test_each_dialect_is_taught_by_three_readings_and_shows_only_what_was_sent(dialect: Dialect) -> None:
    hand, words = Hand(dialect), MeterWords()
    with listening(hand) as (watched, _):
        found = lesson(words, "volts", 4.112, lines_of(watched, hand), False)
        assert found.understood, found.says
        assert lesson(words, "volts", 4.5, lines_of(watched, hand), False).understood is False
        hand.held = True
        lines = lines_of(watched, hand)
        found = lesson(found.words, "hold", None, lines, not lines)
        assert found.understood, found.says
        hand.held, hand.what, hand.x = False, "ohm", 11_240.0
        found = lesson(found.words, "ohm", 11_240.0, lines_of(watched, hand), False)
        assert found.understood, found.says
        assert found.words.trusted
        watched.link.taught = found.words

        sent: set[float | None] = set()

        def show(what: str, x: float, held: bool) -> None:
            hand.what, hand.x, hand.held = what, x, held
            lines_of(watched, hand)
            if not hand.says():
                # One that falls silent while it is held shows its last value as old as that is, and then none.
                until(lambda: polled(watched) and watched.live is None, 10)

        for x in (3.987, -0.412, 12.504, 0.0):
            show("volts", x, False)
            assert watched.live is not None, watched.link.says
            assert watched.live.volts == pytest.approx(x, abs=6e-4)
            sent.add(watched.live.volts)
        for what, x, held in (("volts", 3.333, True), ("ohm", 3.7, False), ("ohm", 4700.0, True)):
            show(what, x, held)
            assert watched.live is None or watched.live.volts is None, watched.live


@pytest.mark.parametrize(
    "over", [b" OL V DC\r\n", b"0L  MOhm\n", b"O.L kOhm\n", b"-.--- V\r\n", b"OVER V\n", b"+9.9E+37 V\n", b"OVLD\n"]
)
def test_an_overload_is_no_value(over: bytes) -> None:
    line = read_line(over.decode().strip())
    assert line.overload
    assert line.value is None


@pytest.mark.parametrize(
    "text",
    ["4.112", "230.1 V AC", "3.999 V~", "REL 0.003 V", "MAX 4.2 V", "DIODE 0.612 V", "4.112 V 4.115 V", "12,345,V", "4.1.2 V", "4.112-4 V", "H 4.112 V"],
)  # fmt: skip
def test_what_is_no_plain_value_of_now_gives_none(text: str) -> None:
    assert read_line(text).value is None


def test_a_word_that_nobody_taught_may_say_hold_so_nothing_is_taken() -> None:
    taught = MeterWords(compared=["volts", "hold"], usual=["LIVE"], hold=["STILL"], holds="says")
    assert read_line("LIVE 4.112 V", taught).value == 4.112
    assert read_line("STUCK 4.112 V", taught).because == "unknown_word"


VALUES = (4.112, 41.125, 3.999, 12.5)
STREAM = b"".join(f"{v:.3f} V DC\r\n".encode() for v in VALUES)


@pytest.mark.parametrize("cut", range(1, len(STREAM), 1))
def test_unplugged_at_every_byte_and_plugged_in_again_elsewhere_nothing_is_shown_that_was_not_sent(cut: int) -> None:
    shown: list[float] = []
    first = Plugged(serial="CUT")
    watched = Watched.streaming("meter", "m", first.address, Meter(), MeterWords())
    try:
        watched.poll()
        first.send(STREAM[:cut])
        watched.poll()
        shown += [h.line.value for h in watched.link.heard]
        first.unplug()
        watched.poll()
        assert watched.live is None
        assert watched.link.state in ("gone", "unplugged", "connecting", "silent")
        again = Plugged(serial="CUT")
        try:
            watched.link._next_try = 0.0
            watched.poll()
            again.send(STREAM[cut:] + STREAM)
            until(lambda: polled(watched) and watched.live is not None, 5)
            shown += [h.line.value for h in watched.link.heard]
        finally:
            again.unplug()
    finally:
        watched.link.close()
        first.unplug()
    assert shown
    assert set(shown) <= set(VALUES)


def test_what_came_while_nobody_listened_is_thrown_away() -> None:
    device = Plugged()
    watched = Watched.streaming("meter", "m", device.address, Meter(), MeterWords())
    try:
        watched.poll()
        device.send(b"\r\n1.000 V\r\n")
        until(lambda: polled(watched) and watched.live, 5)
        watched.link._listened -= 60
        device.send(b"2.000 V\r\n" * 20)
        time.sleep(0.1)
        watched.poll()
        device.send(b"3.000 V\r\n3.000 V\r\n")
        until(lambda: polled(watched) and (watched.live and watched.live.volts == 3.0), 5)
        assert 2.0 not in [h.line.value for h in watched.link.heard]
    finally:
        watched.link.close()
        device.unplug()


def test_a_value_settles_on_three_lines_of_its_own_and_only_of_a_meter_that_was_taught() -> None:
    hand = Hand(plain)
    trusted = MeterWords(compared=["volts", "hold"], holds="says")
    with listening(hand, trusted) as (watched, _):
        until(lambda: polled(watched) and (watched.steady and watched.steady.share == 1.0), 10)
        assert watched.steady is not None
        assert watched.steady.volts == 4.112
    with listening(hand) as (watched, _):
        began = time.monotonic()
        while time.monotonic() < began + 1.5:
            watched.poll()
            assert watched.steady is None
            time.sleep(0.05)
        assert watched.live is not None
        assert watched.live.volts == 4.112


def test_one_line_asked_for_often_is_one_reading_and_grows_old() -> None:
    device = Plugged()
    watched = Watched.streaming("meter", "m", device.address, Meter(), MeterWords(compared=["volts"], holds="says"))
    try:
        watched.poll()
        device.send(b"\r\n4.100 V\r\n")
        until(lambda: polled(watched) and watched.live, 5)
        at = watched.read_at
        for _ in range(20):
            watched.poll()
            time.sleep(0.02)
        assert watched.read_at == at
        assert watched.steady is None or watched.steady.share < 1.0
        until(lambda: polled(watched) and watched.live is None, 5)
        assert watched.link.state == "silent"
    finally:
        watched.link.close()
        device.unplug()


def test_a_slow_logger_is_not_silent_between_its_lines_and_its_value_grows_old() -> None:
    device = Plugged(says=lambda: b"3.300 V\r\n", every_s=2.2)
    watched = Watched.streaming("meter", "m", device.address, Meter(), MeterWords(compared=["volts"], holds="says"))
    try:
        until(lambda: polled(watched) and len(watched.link.heard) > 4, 30)
        worst = 0.0
        for _ in range(60):
            watched.poll()
            assert watched.live is not None
            worst = max(worst, watched.age_s or 0.0)
            time.sleep(0.05)
        assert worst > 1.8
    finally:
        watched.link.close()
        device.unplug()


def test_a_port_at_the_wrong_speed_talks_rubbish() -> None:
    hand = Hand(plain)
    device = Plugged(says=hand.says, baud=2400)
    watched = Watched.streaming("meter", "m", device.address, Meter(), MeterWords())
    try:
        until(lambda: polled(watched) and watched.link.state == "rubbish", 10)
        assert watched.live is None
    finally:
        watched.link.close()
        device.unplug()


@given(st.one_of(st.binary(max_size=120), st.text(alphabet="0419.,+-VDCmkOhmHOLD \t;", max_size=40).map(str.encode)))
def test_any_bytes_are_a_line_or_none_and_never_a_value_that_is_not_written_there(raw: bytes) -> None:
    text = raw.decode("utf-8", "replace")
    line = read_line(text)
    if line.value is not None:
        assert any(sign.isdigit() for sign in text)
        assert line.quantity in ("volts", "ohm", "celsius", "amps")


@given(
    st.floats(-1000, 1000).map(lambda x: round(x, 4)),
    st.sampled_from(["V", "VDC", "V DC", "mV", "mVDC"]),
    st.booleans(),
)
def test_a_figure_and_its_unit_are_read_as_written(x: float, unit: str, with_comma: bool) -> None:
    figure = f"{x:.4f}"
    line = read_line(f"{figure.replace('.', ',') if with_comma else figure} {unit}")
    assert line.value == pytest.approx(x * (1e-3 if unit.startswith("m") else 1), abs=1e-9)
    assert line.quantity == "volts"

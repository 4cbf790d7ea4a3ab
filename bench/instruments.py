"""Lines of meters and logs of testers as somebody else would make them, by a fresh seed: how many are read right, left alone, or wrong.

The makers here know nothing of the readers: they put together what such instruments print, and keep the truth beside it.
"""

import random
import time
from collections.abc import Iterator
from datetime import datetime, timedelta

import numpy as np

from bench.measure import Figure
from saldatura.battery.errors import Impossible
from saldatura.battery.logs.read import read_log
from saldatura.battery.measures.capacity import CapacityRequest, capacity
from saldatura.formats.meter_line import read_line
from saldatura.formats.register_dump import read_dump
from saldatura.shop.meter_words import MeterWords

LINES, LOGS, DUMPS = 20_000, 300, 2000


def figures() -> Iterator[Figure]:
    """Lines, logs, dumps, and a log of 50 MB."""
    rng = random.Random()
    yield from _lines(rng)
    yield from _logs(rng)
    yield from _dumps(rng)
    yield from _large()


# --- lines of meters


def _line(rng: random.Random) -> tuple[str, str, float]:
    """A line, what it truly is ("volts", "ohm", "celsius", "none"), and its value."""
    what = rng.choice(["volts", "volts", "volts", "ohm", "celsius", "amps", "held", "ac", "rel", "over", "diode"])
    x = rng.choice([rng.uniform(0, 5), rng.uniform(5, 60), rng.uniform(-3, 0), 0.0])
    digits = rng.choice([2, 3, 4])
    shown = round(x, digits)
    form = rng.choice(["{:.%df}", "{:+.%df}", "{:09.%df}", "{: .%df}", "{:.%dE}"]) % digits
    figure = form.format(shown)
    value = float(figure)
    gap = rng.choice([" ", "", "  ", "\t", ","])
    volts = rng.choice(["V", "VDC", "V DC", "Volt", "V=", "DCV"])
    unit = {
        "ohm": rng.choice(["Ohm", "Ω", "OHM", "ohms"]),
        "celsius": rng.choice(["C", "°C", "degC"]),
        "amps": "A",
    }.get(what, volts)
    scale = 1.0
    if what in ("volts", "held") and volts in ("V", "VDC") and rng.random() < 0.2:
        unit, scale = "m" + volts, 1e-3
    if what == "ohm" and rng.random() < 0.5:
        prefix = rng.choice(["k", "M"])
        unit, scale = prefix + unit, {"k": 1e3, "M": 1e6}[prefix]
    words = [rng.choice(["AUTO", "MANU", ""]), rng.choice(["", "", "BAT", "USB"])]
    if what == "held":
        words.append(rng.choice(["HOLD", "HLD", "H", "A-HOLD", "STILL"]))
    if what == "ac":
        unit = rng.choice(["VAC", "V AC", "V~", "mVAC"])
    if what == "rel":
        words.append(rng.choice(["REL", "MAX", "MIN", "Δ", "ZERO"]))
    if what == "diode":
        words.append(rng.choice(["DIODE", "DIO"]))
    if what == "over":
        figure = rng.choice(["OL", "0L", "O.L", ".OL", "OVER", "-OL", "----", "9.9E+37"])
    text = f"{unit} {figure}" if unit == "DCV" or rng.random() < 0.1 else f"{figure}{gap}{unit}"
    text = (gap if gap.strip() else " ").join([text, *filter(None, words)])
    if rng.random() < 0.15 and "E" not in figure and gap != ",":
        text = text.replace(".", ",", 1)
    if rng.random() < 0.1:
        text = (
            f"{rng.randrange(1, 9999):04d}{' ' if gap == '' else gap if gap != ',' else ','}{text}"
            if gap in (",", "\t")
            else text
        )
    truth = what if what in ("volts", "ohm", "celsius", "amps") else "none"
    return text, truth, value * scale


def _lines(rng: random.Random) -> Iterator[Figure]:
    right = left = wrong = danger = 0
    example = ""
    taught = MeterWords(compared=["volts", "hold"], hold=["STILL"], usual=["AUTO"], holds="says")
    for _ in range(LINES):
        text, truth, value = _line(rng)
        line = read_line(text, taught)
        if line.value is None:
            right += truth == "none"
            left += truth != "none"
        elif line.quantity == truth and abs(line.value - value) <= 1e-6 + 1e-6 * abs(value):
            right += 1
        else:
            wrong += 1
            example = example or text
            danger += line.quantity == "volts"
    yield Figure(
        f"{LINES} lines of meters: right, left alone, wrong, wrong as volts",
        f"{right / LINES:.1%}, {left / LINES:.1%}, {wrong}, {danger}" + (f" (“{example}”)" if example else ""),
        "none wrong as volts, 97 % right",
        danger == 0 and right / LINES >= 0.97,
    )


# --- logs


def _log(rng: random.Random) -> tuple[str, float]:
    """A discharge in a layout put together at random, and the Ah that truly came out of it."""
    step = rng.choice([1, 5, 10, 30, 60])
    count, amps = rng.randrange(200, 700), rng.uniform(0.2, 8.0)
    start, slope = rng.choice([4.2, 12.5, 25.0]), rng.uniform(0.15, 0.3)
    t = np.arange(count) * step
    volts = start * (1 - slope * t / t[-1])
    delimiter = rng.choice([";", ",", "\t", "|"])
    comma = delimiter != "," and rng.random() < 0.5
    time_name, time_of = rng.choice(
        [("Time", str), ("Test Time / s", str), ("time_s", str), ("Elapsed (min)", lambda s: f"{s / 60:.5f}"),
         ("Zeit", lambda s: f"{s // 3600}:{s // 60 % 60:02d}:{s % 60:02d}"),
         ("Timestamp", lambda s: (datetime(2026, 11, 3, 22, 5) + timedelta(seconds=int(s))).strftime("%Y-%m-%d %H:%M:%S"))]
    )  # fmt: skip
    milli_v, milli_a, sign = rng.random() < 0.3, rng.random() < 0.3, rng.choice([1, -1])
    v_name = (
        rng.choice(["Voltage (mV)", "U [mV]", "mV"])
        if milli_v
        else rng.choice(["Voltage", "Voltage / V", "voltage_volt", "Spannung", "U", "Pack voltage (V)"])
    )
    a_name = (
        rng.choice(["Current (mA)", "I [mA]", "mA"])
        if milli_a
        else rng.choice(["Current", "Current / A", "current_ampere", "Strom", "I", "Load current (A)"])
    )
    columns: list[tuple[str, list[str]]] = [
        (time_name, [time_of(int(s)) for s in t]),
        (v_name, [f"{v * (1000 if milli_v else 1):.{1 if milli_v else 4}f}" for v in volts]),
        (a_name, [f"{sign * amps * (1000 if milli_a else 1):.{1 if milli_a else 4}f}"] * count),
    ]
    extra = [
        ("Power / W", [f"{v * amps:.3f}" for v in volts]), ("Energy (Wh)", [f"{k * 0.01:.2f}" for k in range(count)]),
        ("Capacity (mAh)", [f"{amps * s / 3.6:.1f}" for s in t]), ("Temp (°C)", [f"{22 + k / 100:.1f}" for k in range(count)]),
        ("Set current (A)", [f"{amps + 0.1:.2f}"] * count), ("Cell 1 (V)", [f"{v / 3:.4f}" for v in volts]), ("Step", ["2"] * count),
        ("Remark", [""] * count), ("Cycle", ["1"] * count),
    ]  # fmt: skip
    columns += rng.sample(extra, rng.randrange(0, 5))
    rng.shuffle(columns)
    rows = [delimiter.join(of[k] for _, of in columns) for k in range(count)]
    if comma:
        rows = [row.replace(".", ",") for row in rows]
    above = rng.choice([[], ["Tester report"], ["Slot 2", "Begun by Ilka", ""], ["Cell: K-12", "Program: capacity"]])
    end = rng.choice(["\n", "\r\n"])
    text = end.join([*above, delimiter.join(name for name, _ in columns), *rows]) + end
    return ("\ufeff" if rng.random() < 0.3 else "") + text, amps * float(t[-1]) / 3600


def _logs(rng: random.Random) -> Iterator[Figure]:
    right = refused = wrong = 0
    example = ""
    for _ in range(LOGS):
        text, ah = _log(rng)
        try:
            found = capacity(CapacityRequest(text=text, rated_ah=10.0)).ah
        except Impossible as error:
            refused += 1
            example = example or f"refused: {error.message[:80]}"
            continue
        if abs(found - ah) <= 0.01 * ah + 0.001:
            right += 1
        else:
            wrong += 1
            example = f"wrong: {text.lstrip(chr(0xFEFF)).splitlines()[0][:60]} …"
    yield Figure(
        f"{LOGS} logs of random layout, counted: right, refused, wrong",
        f"{right / LOGS:.1%}, {refused}, {wrong}" + (f" ({example})" if example else ""),
        "none wrong, 97 % right",
        wrong == 0 and right / LOGS >= 0.97,
    )


# --- registers


def _dumps(rng: random.Random) -> Iterator[Figure]:
    right = refused = wrong = 0
    for _ in range(DUMPS):
        volts = rng.randrange(6000, 17_000)
        words = {
            0x08: rng.randrange(2750, 3150),
            0x09: volts,
            0x0D: rng.randrange(1, 101),
            0x1A: rng.choice([0x31, 0x21]),
            0x19: rng.randrange(7000, 15_000),
            0x17: rng.randrange(0, 900),
            0x3F: rng.randrange(2500, 4250),
            0x3E: rng.randrange(2500, 4250),
        }
        swapped = rng.random() < 0.5
        as_written = {n: int.from_bytes(w.to_bytes(2, "little"), "big") if swapped else w for n, w in words.items()}
        form = rng.choice(["0x{n:02x} 0x{w:04x}", "{n:02x}: {w:04x}", "0x{n:02X} = {w}", "reg 0x{n:02x},{w:#06x}"])
        try:
            found = read_dump("\n".join(form.format(n=n, w=w) for n, w in as_written.items())).words
        except Impossible:
            refused += 1
            continue
        if found == {f"0x{n:02x}": w for n, w in sorted(words.items())}:
            right += 1
        else:
            wrong += 1
    yield Figure(
        f"{DUMPS} register dumps, half with their bytes exchanged: right, refused, wrong",
        f"{right / DUMPS:.1%}, {refused}, {wrong}",
        "99 % right, none wrong",
        wrong == 0 and right / DUMPS >= 0.99,
    )


def _large() -> Iterator[Figure]:
    rows = 2_200_000
    t = np.arange(rows) * 0.5
    text = "Time / s;Voltage / V;Current / A\n" + "\n".join(f"{s:.1f};{4.1 - s / 1e6:.5f};1.25000" for s in t).replace(
        ".", ","
    )
    for name, of in (("decimal comma", text), ("hours, minutes and seconds", _clocked(text, 1_000_000))):
        began = time.perf_counter()
        log = read_log(of)
        took = time.perf_counter() - began
        yield Figure(
            f"log of {len(of) / 1e6:.0f} MB, {len(log.rows):,} rows, {name}",
            f"{took:.1f} s",
            "at most 10 s",
            took <= 10,
        )


def _clocked(text: str, rows: int) -> str:
    head, *lines = text.split("\n", rows)[:rows]
    clock = (f"{k // 3600}:{k // 60 % 60:02d}:{k % 60:02d}" for k in range(len(lines)))
    return "\n".join([head, *(f"{at};{line.split(';', 1)[1]}" for at, line in zip(clock, lines, strict=True))])

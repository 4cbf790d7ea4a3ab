"""Strings of groups as they come over a bench, and as hands and meters read them. Written from the work, apart from the
core: nothing of `saldatura` is imported here, and no figure of its priors is used.

A case holds the request for `verdict` and what is plainly true of it: which groups are in which state, which wires are
open, what the terminals do. Kinds are drawn with a seed of their own at each run.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

FULL = {"nmc": 4.20, "nca": 4.20, "li_oxide": 4.20, "lipo": 4.20, "lipo_hv": 4.35}
FLOOR = {"nmc": 1.5, "nca": 1.5, "li_oxide": 1.5, "lipo": 2.0, "lipo_hv": 2.0}
USUAL = {"nmc": 2.5, "nca": 2.5, "li_oxide": 2.5, "lipo": 3.0, "lipo_hv": 3.0}
Rng = np.random.Generator


@dataclass
class Case:
    """`bad[group]` is the plain state of a group; `open_taps`, `terminals` and `misread` what else is true."""

    kind: str
    request: dict[str, Any]
    bad: dict[int, str] = field(default_factory=dict)
    open_taps: list[int] = field(default_factory=list)
    terminals: str = "agree"
    true_v: list[float] = field(default_factory=list)


TOLD = 0.5


@dataclass
class Hand:
    """A meter in a hand: error of each range, its steps, what it shows, and how the string drifts while it is read."""

    rng: Rng
    counts: int
    percent: float
    digits: float
    one_decimal: bool
    creep_v: float

    def __post_init__(self) -> None:
        self.gain = {
            top: 1 + self.rng.uniform(-1, 1) * self.percent / 100 * 0.8 for top in (2, 4, 6, 20, 40, 60, 200, 400, 600)
        }

    def shown(self, volts: float) -> tuple[float, float]:
        """(what an autoranging meter of so many counts makes of `volts`, value of its last digit)."""
        step = 0.01
        for top, step in ((self.counts / 100, 0.01), (self.counts / 10, 0.1)):  # noqa: B007
            gain = self.gain[min(self.gain, key=lambda t: abs(t - top))]
            if abs(volts * gain) < top:
                break
        return volts * gain, step

    def read(self, volts: float, when: float) -> float:
        """What is typed for `volts`, at a time from 0 (first reading) to 1 (last)."""
        shown, step = self.shown(volts * (1 + self.creep_v * when / 4.0))
        shown += self.rng.uniform(-1, 1) * self.digits * step * 0.7 + self.rng.normal(0, 0.002)
        if self.one_decimal:
            step = max(step, 0.1)
        return round(round(shown / step) * step, 3)


def hand(rng: Rng, coarse: bool = False) -> tuple[Hand, dict[str, Any]]:
    """A hand and the meter as the shop has it set up."""
    counts = int(rng.choice([2000, 4000, 6000]))
    percent = float(rng.choice([0.5, 0.5, 0.8, 1.0]))
    digits = float(rng.choice([1, 2, 2, 3]))
    creep = float(rng.choice([0.0, 0.0, rng.normal(0, 0.01), rng.normal(0, 0.03)]))
    meter = {"percent": percent, "digits": digits, "resolution_v": 0.01}
    return Hand(rng, counts, percent, digits, coarse or rng.random() < 0.12, creep), meter


def base(rng: Rng, chemistry: str, series: int, spread: float | None = None) -> np.ndarray:
    """A sound string: one charge, siblings a little apart."""
    top = FULL[chemistry]
    level = rng.uniform(top - 0.75, top - 0.02)
    return np.minimum(
        level + rng.normal(0, rng.choice([0.002, 0.006, 0.012]) if spread is None else spread, series), top
    )


def readings(
    rng: Rng,
    meter_hand: Hand,
    true: np.ndarray,
    floating: dict[int, float] | None = None,
    terminals_v: float | None = None,
) -> list[dict[str, Any]]:
    """Groups, taps or both, with or without the terminals, through a board that takes up to 0.3 V."""
    series, floating = len(true), floating or {}
    tap_v = np.concatenate(([0.0], np.cumsum(true)))
    for tap, share in floating.items():
        tap_v[tap] = tap_v[tap - 1] + share * (tap_v[tap + 1] - tap_v[tap - 1])
    scheme = rng.choice(["groups", "taps", "both"], p=[0.5, 0.3, 0.2]) if not floating else rng.choice(["taps", "both"])
    points: list[tuple[dict[str, Any], float]] = []
    if scheme != "taps":
        points += [({"kind": "group", "group": k + 1}, tap_v[k + 1] - tap_v[k]) for k in range(series)]
    if scheme != "groups":
        points += [({"kind": "tap", "tap": k}, tap_v[k]) for k in range(1, series + 1)]
    if terminals_v is not None or rng.random() < 0.75:
        whole = float(true.sum())
        lost = rng.choice([0.0, rng.uniform(0, 0.3)])
        points.append(({"kind": "pack"}, whole - lost if terminals_v is None else terminals_v))
    last = max(len(points) - 1, 1)
    found = [{**point, "volts": meter_hand.read(float(v), i / last)} for i, (point, v) in enumerate(points)]
    # Half of them come from a window that sends the digits as they were typed; some hands leave the last noughts off.
    if rng.random() < TOLD:
        lazy = rng.random() < 0.3
        for reading in found:
            step = 0.1 if meter_hand.one_decimal else meter_hand.shown(reading["volts"])[1]
            said = f"{reading['volts']:.{1 if step > 0.05 else 2}f}"
            decimals = len((said.rstrip("0") if lazy else said).split(".")[1])
            if decimals:
                reading["resolution_v"] = 10.0**-decimals
    return found


def pack(rng: Rng, least: int = 3, most: int = 13) -> tuple[str, int, dict[str, Any]]:
    """Chemistry, groups in series, and the pack as it is told."""
    chemistry = str(rng.choice(list(FULL), p=[0.35, 0.15, 0.3, 0.1, 0.1]))
    series = int(rng.integers(least, most + 1))
    parallel = int(rng.integers(1, 5))
    return (
        chemistry,
        series,
        {"chemistry": chemistry, "series": series, "parallel": parallel, "rated_ah": round(2.5 * parallel, 1)},
    )


def sound(rng: Rng) -> Case:
    """Nothing is wrong."""
    chemistry, series, built = pack(rng, 1)
    meter_hand, meter = hand(rng)
    true = base(rng, chemistry, series)
    return Case(
        "sound", {"pack": built, "meter": meter, "readings": readings(rng, meter_hand, true)}, true_v=list(true)
    )


def coarse(rng: Rng) -> Case:
    """Nothing is wrong, and values are said to one decimal."""
    chemistry, series, built = pack(rng, 2)
    meter_hand, meter = hand(rng, coarse=True)
    true = base(rng, chemistry, series, 0.004)
    return Case(
        "coarse, sound", {"pack": built, "meter": meter, "readings": readings(rng, meter_hand, true)}, true_v=list(true)
    )


def fallen(rng: Rng, count: int) -> Case:
    """One or two groups have fallen well below the others."""
    chemistry, series, built = pack(rng, 3 if count == 1 else 5)
    meter_hand, meter = hand(rng)
    true = base(rng, chemistry, series)
    bad = {}
    for group in rng.choice(series, count, replace=False):
        low = max(USUAL[chemistry] + 0.1, float(true.min()) - 1.2)
        high = float(np.median(true)) - 0.35
        true[group] = rng.uniform(min(low, high - 0.05), high)
        bad[int(group) + 1] = "low"
    return Case(
        f"{count} low",
        {"pack": built, "meter": meter, "readings": readings(rng, meter_hand, true)},
        bad,
        true_v=list(true),
    )


def deep(rng: Rng, state: str) -> Case:
    """A group run flat, under the floor, dead or reversed; half of the boards have opened the output for it."""
    chemistry, series, built = pack(rng, 3)
    meter_hand, meter = hand(rng)
    true = base(rng, chemistry, series)
    floor, usual = FLOOR[chemistry], USUAL[chemistry]
    spans = {
        "run_flat": (floor + 0.08, usual - 0.08),
        "under_floor": (0.3, floor - 0.08),
        "dead": (0.0, 0.03),
        "reversed": (-0.8, -0.12),
    }
    group = int(rng.integers(series))
    true[group] = rng.uniform(*spans[state])
    locked = state != "run_flat" and rng.random() < 0.5
    found = readings(
        rng, meter_hand, true, terminals_v=float(rng.choice([0.0, rng.uniform(0, 0.3)])) if locked else None
    )
    kind = f"{state}, locked out" if locked else state
    return Case(kind, {"pack": built, "meter": meter, "readings": found}, {group + 1: state}, true_v=list(true))


def overcharged(rng: Rng) -> Case:
    """One group above full."""
    chemistry, series, built = pack(rng, 1)
    meter_hand, meter = hand(rng)
    meter_hand.one_decimal = False
    true = base(rng, chemistry, series)
    group = int(rng.integers(series))
    true[group] = FULL[chemistry] + rng.uniform(0.09, 0.40)
    return Case(
        "overcharged",
        {"pack": built, "meter": meter, "readings": readings(rng, meter_hand, true)},
        {group + 1: "overcharged"},
        true_v=list(true),
    )


def open_wire(rng: Rng, count: int) -> Case:
    """One or two sense wires open, each floating somewhere between its neighbours, well off its place."""
    chemistry, series, built = pack(rng, 3 if count == 1 else 7)
    meter_hand, meter = hand(rng)
    meter_hand.one_decimal = False
    true = base(rng, chemistry, series)
    taps = [int(t) for t in rng.choice(np.arange(1, series, 2 if count > 1 else 1), count, replace=False)]
    floating = {tap: float(rng.choice([0.0, 1.0, rng.uniform(0.0, 0.32), rng.uniform(0.68, 1.0)])) for tap in taps}
    found = readings(rng, meter_hand, true, floating)
    return Case(
        f"{count} open", {"pack": built, "meter": meter, "readings": found}, open_taps=sorted(taps), true_v=list(true)
    )


def two_groups(rng: Rng) -> Case:
    """A pack of two groups, one of them low, run flat, dead, or none."""
    chemistry, _, built = pack(rng, 2, 2)
    meter_hand, meter = hand(rng)
    true = base(rng, chemistry, 2)
    what = str(rng.choice(["none", "low", "run_flat", "dead"]))
    bad = {}
    if what != "none":
        group = int(rng.integers(2))
        usual, floor = USUAL[chemistry], FLOOR[chemistry]
        true[group] = {
            "low": rng.uniform(usual + 0.1, float(true.min()) - 0.3),
            "run_flat": rng.uniform(floor + 0.08, usual - 0.08),
            "dead": 0.01,
        }[what]
        bad = {group + 1: what}
    return Case(
        "two groups",
        {"pack": built, "meter": meter, "readings": readings(rng, meter_hand, true)},
        bad,
        true_v=list(true),
    )


def path_open(rng: Rng) -> Case:
    """A sound string and nothing at the terminals, or a body diode's drop."""
    chemistry, series, built = pack(rng, 2)
    meter_hand, meter = hand(rng)
    meter_hand.one_decimal = False
    true = base(rng, chemistry, series)
    off = rng.random() < 0.6
    volts = float(rng.choice([0.0, rng.uniform(0, 0.2)])) if off else float(true.sum()) - rng.uniform(0.45, 0.75)
    found = readings(rng, meter_hand, true, terminals_v=volts)
    return Case(
        "path open" if off else "body diode",
        {"pack": built, "meter": meter, "readings": found},
        terminals="off" if off else "diode",
        true_v=list(true),
    )


def misread(rng: Rng) -> Case:
    """One value of a sound string mistyped by its point, with everything read by groups."""
    chemistry, series, built = pack(rng, 4)
    meter_hand, meter = hand(rng)
    true = base(rng, chemistry, series)
    found = [r for r in readings(rng, meter_hand, true) if r["kind"] == "group"]
    if len(found) < series:
        found = [{"kind": "group", "group": k + 1, "volts": meter_hand.read(float(v), 0.0)} for k, v in enumerate(true)]
    which = int(rng.integers(series))
    found[which]["volts"] = round(found[which]["volts"] * float(rng.choice([10.0, 1000.0, -1.0])), 3)
    return Case("mistyped", {"pack": built, "meter": meter, "readings": found}, true_v=list(true))


KINDS: dict[str, Callable[[Rng], Case]] = {
    "sound": sound,
    "coarse": coarse,
    "one low": lambda rng: fallen(rng, 1),
    "two low": lambda rng: fallen(rng, 2),
    "run flat": lambda rng: deep(rng, "run_flat"),
    "under floor": lambda rng: deep(rng, "under_floor"),
    "dead": lambda rng: deep(rng, "dead"),
    "reversed": lambda rng: deep(rng, "reversed"),
    "overcharged": overcharged,
    "one open": lambda rng: open_wire(rng, 1),
    "two open": lambda rng: open_wire(rng, 2),
    "two groups": two_groups,
    "path": path_open,
    "mistyped": misread,
}

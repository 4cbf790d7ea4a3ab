"""Proof plans against repaired packs with a fault left in, and sound ones: what passes wrongly, and what fails wrongly.

Each pack is a string of cells stepped here second by second (its own curve, two branches, a meter with its display and gain), repaired
by new cells in one group, then proved as a bench would: every test that the plan calls due, read with that meter. One of six faults is
left in, or none.
"""

import secrets
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from bench.measure import Figure
from saldatura.battery.cell.curves import curves_for
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure
from saldatura.battery.measures.sensor import SensorRequest
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import GroupPoint, Pack, PackPoint
from saldatura.job.facts import Intake, NewReading, NewSet, ReplacedGroup, Safety
from saldatura.records.bench import Bench
from saldatura.records.database import Database

PACKS = 500
FAULTS = ("weak_group", "bad_joint", "leak", "open_sensor", "wrong_wires", "half_levelled")
NOTHING = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)
RATED, SERIES, LOAD_A = 4.0, 6, 8.0


@dataclass
class _Group:
    holds: float
    ohm: float
    soc: float
    leak_ma: float = 0.0
    joint_ohm: float = 0.0


class _Pack:
    """A string and the meter that reads it."""

    def __init__(self, rng: np.random.Generator, fault: str | None) -> None:
        self.rng = rng
        self.curve = curves_for("nmc")[int(rng.integers(2))]
        age = rng.uniform(0.85, 1.0)
        # Siblings of one age differ by a few per cent in what they hold, and by a tenth in what they resist.
        self.groups = [
            _Group(RATED * age * rng.normal(1, 0.012), 0.018 / age * rng.normal(1, 0.06), 0.96 + rng.normal(0, 0.003))
            for _ in range(SERIES)
        ]
        self.new = int(rng.integers(SERIES))
        self.groups[self.new].holds, self.groups[self.new].ohm = (
            RATED * age * rng.normal(1.0, 0.01),
            0.018 * rng.normal(1, 0.05),
        )
        self.gain, self.wires, self.sensor_open = rng.normal(1, 0.001), list(range(SERIES)), fault == "open_sensor"
        bad = self.groups[int(rng.integers(SERIES))]
        if fault == "weak_group":
            bad.holds, bad.ohm = bad.holds * rng.uniform(0.45, 0.75), bad.ohm * rng.uniform(1.1, 2.0)
        elif fault == "bad_joint":
            bad.joint_ohm = rng.uniform(0.010, 0.05)
        elif fault == "leak":
            bad.leak_ma = rng.uniform(1.5, 8.0)
        elif fault == "half_levelled":
            bad.soc -= rng.uniform(0.12, 0.35)
        elif fault == "wrong_wires":
            k = int(rng.integers(1, SERIES))
            self.wires[k - 1], self.wires[k] = self.wires[k], self.wires[k - 1]

    def rest_v(self, g: _Group) -> float:
        return float(self.curve.volts(g.soc))

    def shown(self, volts: float) -> float:
        return round(float(volts * self.gain + self.rng.normal(0, 0.0008)), 3)

    def reads(self, amps: float = 0.0) -> list[float]:
        """Every group as the meter shows it; two wires in each other's place read groups of no length and of twice one."""
        taps = [0.0]
        for g in self.groups:
            taps.append(taps[-1] + self.rest_v(g) - amps * (g.ohm + g.joint_ohm))
        if self.wires != list(range(SERIES)):
            k = next(i for i, w in enumerate(self.wires) if w != i) + 1
            taps[k], taps[k - 1] = taps[k - 1], taps[k]
        return [self.shown(b - a) for a, b in pairwise(taps)]

    def pack_v(self) -> float:
        return self.shown(sum(self.rest_v(g) for g in self.groups))

    def run(self, amps: float) -> tuple[float, int, list[float]]:
        """Seconds from full under a load until a group is at 3 V, which, and what all read then."""
        most = min((1 - g.soc) * g.holds for g in self.groups)
        socs = [g.soc + most / g.holds for g in self.groups]
        slow = [0.0] * SERIES
        for t in range(5, 20_000, 5):
            volts = []
            for k, g in enumerate(self.groups):
                socs[k] -= amps * 5 / 3600 / g.holds
                slow[k] += (amps * 0.8 * g.ohm - slow[k]) * (1 - np.exp(-5 / 300))
                volts.append(float(self.curve.volts(socs[k])) - amps * (g.ohm + g.joint_ohm) - slow[k])
            if min(volts) < 3.0:
                return float(t), volts.index(min(volts)) + 1, [self.shown(v) for v in volts]
        raise AssertionError(amps)

    def later(self, days: float) -> None:
        for g in self.groups:
            g.soc -= (g.leak_ma * 24 * days / 1000 + 0.0007 * days * RATED) / g.holds


def _proved(seed: int) -> tuple[str, str, list[str], float]:
    """The fault that was left in (or none), the outcome of the plan, what failed, and minutes that it takes."""
    rng = np.random.default_rng(seed)
    fault = None if rng.random() < 0.5 else str(rng.choice(FAULTS))
    of, clock = _Pack(rng, fault), [datetime(2026, 3, 2, 8, 0, tzinfo=UTC)]
    with tempfile.TemporaryDirectory() as folder:
        db = Database(Path(folder) / "data.sqlite3")
        bench = Bench(db, now=lambda: clock[0])
        pack = Pack(chemistry="nmc", series=SERIES, parallel=2, rated_ah=RATED, load_a=LOAD_A)
        job = bench.take_in(Intake(customer="Bench", pack_name="Proof", pack=pack), NOTHING).facts.id
        bench.add_to_shop(Meter(percent=0.1, digits=2, resolution_v=0.001))

        def add(new: Any) -> None:
            bench.add(job, new)

        def read_all(purpose: Any, amps: float = 0.0) -> None:
            for k, volts in enumerate(of.reads(amps), start=1):
                add(
                    NewReading(
                        purpose=purpose,
                        point=GroupPoint(group=k),
                        volts=volts,
                        key=f"bench-{purpose}-{clock[0].timestamp():.0f}-{k}",
                    )
                )
            if not amps:
                add(NewReading(purpose=purpose, point=PackPoint(), volts=of.pack_v(), key=f"bench-{purpose}-{clock[0].timestamp():.0f}-p"))  # fmt: skip

        read_all("probe")
        add(ReplacedGroup(group=of.new + 1, by="Ilka"))
        clock[0] += timedelta(hours=12)
        add(NewSet(purpose="probe", rest_since=clock[0] - timedelta(hours=11)))
        read_all("probe")
        add(NewSet(purpose="prove", rest_since=clock[0] - timedelta(hours=11)))
        read_all("prove")
        add(NewSet(purpose="load", condition="load", current_a=LOAD_A))
        read_all("load", LOAD_A)
        add(
            WiggleMeasure(
                part="group", seconds=20, dropouts_s=[1.0] if fault == "bad_joint" and rng.random() < 0.3 else []
            )
        )
        for warm in (22.0, 33.0):
            own = 10_000 * float(np.exp(3435 * (1 / (warm + 273.15) - 1 / 298.15))) * rng.normal(1, 0.01)
            add(SensorMeasure(sensor=SensorRequest(ohm=5e6 if of.sensor_open else own, ambient_c=warm)))
        full = [of.shown(4.19 - max(0.96 - g.soc, 0) * 0.9) for g in of.groups]
        add(FullChargeMeasure(accepts=True, ended_itself=True, group_v=full))
        seconds, group, ended = of.run(LOAD_A)
        add(
            LoadRunMeasure(
                on="load",
                amps=LOAD_A,
                seconds=seconds,
                ended_by="group",
                group=group,
                ah=LOAD_A * seconds / 3600,
                group_v=ended,
            )
        )
        seconds, _, _ = of.run(1.0)
        add(
            CapacityMeasure(
                source="tester", ah=seconds / 3600, wh=14 * seconds / 3600, seconds=seconds, mean_a=1.0, end_v=18.0
            )
        )
        minutes = 0.0
        # The watch begins after the last current, at rest.
        for days in (0.5, 1.0, 6.0):
            of.later(days)
            clock[0] += timedelta(days=days)
            add(NewSet(purpose="prove", rest_since=clock[0] - timedelta(hours=20)))
            read_all("prove")
        plan = bench.proof_plan(job)
        minutes = sum(t.bench_min for t in plan.tests if t.due)
        db.close()
    return fault or "none", plan.outcome, [t.name for t in plan.tests if t.outcome == "fail"], minutes


def figures() -> Iterator[Figure]:
    """Packs of a fresh seed."""
    seed = secrets.randbits(31)
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_proved, range(seed, seed + PACKS), chunksize=5))
    faulty = [f for f in found if f[0] != "none"]
    sound = [f for f in found if f[0] == "none"]
    passed = Counter(f[0] for f in faulty if f[1] == "pass")
    unsure = Counter(f[0] for f in faulty if f[1] not in ("pass", "fail"))
    failed = Counter(name for f in sound if f[1] == "fail" for name in f[2])
    open_ = sum(f[1] not in ("pass", "fail") for f in sound)
    wrongly, falsely = sum(passed.values()) / len(faulty), sum(f[1] == "fail" for f in sound) / len(sound)
    yield Figure(
        f"proof plans: {len(faulty)} repaired packs with a fault left in (seed {seed})",
        f"{wrongly:.1%} pass wrongly {dict(passed) or ''}; {sum(unsure.values()) / len(faulty):.1%} left open {dict(unsure) or ''}; {found[0][3]:.0f} min at the bench",
        "< 1 %", wrongly < 0.01,
    )  # fmt: skip
    yield Figure(
        f"proof plans: {len(sound)} sound ones",
        f"{falsely:.1%} fail wrongly {dict(failed) or ''}; {open_ / len(sound):.1%} left open",
        "< 2 %", falsely < 0.02,
    )  # fmt: skip

"""The jobs of the demo, done through the same acts as at the bench, with the clock set back to when they happened."""

import uuid
from datetime import datetime, timedelta

import numpy as np

from saldatura.bench import Bench
from saldatura.core.job import (
    ChargeOutcome,
    Intake,
    NewCharge,
    NewReading,
    NewSet,
    NewSignOff,
    Purpose,
    Safety,
    Scheme,
)
from saldatura.core.pack import CellFault, WireFault
from saldatura.core.quantities import GroupPoint, Meter, Pack, Point
from saldatura.core.run import points_of
from saldatura.demo.truth import StandInMeter, String
from saldatura.records import clock
from saldatura.records.database import Database

SEED = 20_241
METER = Meter(percent=0.5, digits=2, resolution_v=0.001)
NOTHING_FOUND = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)

SHEARS = Pack(chemistry="li_oxide", series=12, parallel=2, rated_ah=5.0, load_a=12.0)
FROST_FAN = Pack(chemistry="lfp", series=4, parallel=1, rated_ah=3.2, load_a=1.5)
SCRUBBER = Pack(chemistry="li_oxide", series=5, parallel=2, rated_ah=4.0, load_a=8.0)


class _Teller:
    """Tells the demo's story: acts on the bench at times of its own."""

    def __init__(self, db: Database, start: datetime) -> None:
        self.at = start
        self.bench = Bench(db, now=lambda: self.at)
        self.rng = np.random.default_rng(SEED)
        self.meter = StandInMeter(METER, self.rng)

    def go(self, to: datetime) -> None:
        self.at = to

    def later(self, **by: float) -> None:
        self.at += timedelta(**by)

    def level_socs(self, count: int, soc: float, spread: float = 0.004) -> list[float]:
        return [float(s) for s in soc + self.rng.normal(0, spread, count)]

    def read(self, job: int, string: String, point: Point, purpose: Purpose = "probe", slip_v: float = 0.0) -> int:
        self.later(seconds=float(self.rng.uniform(3, 6)))
        volts = round(self.meter.read(string, point) + slip_v, 6)
        new = NewReading(purpose=purpose, point=point, volts=volts, key=str(uuid.UUID(bytes=self.rng.bytes(16))))
        return self.bench.read(job, new).facts.readings[-1].id

    def read_all(self, job: int, string: String, pack: Pack, scheme: Scheme, purpose: Purpose = "probe") -> None:
        for point in points_of(pack, scheme):
            self.read(job, string, point, purpose)

    def correct(self, job: int, string: String, point: Point, old: int) -> None:
        self.later(seconds=8)
        volts = self.meter.read(string, point)
        key = str(uuid.UUID(bytes=self.rng.bytes(16)))
        self.bench.read(job, NewReading(point=point, volts=volts, key=key, supersedes=old, reason="read again"))

    def rested_set(self, job: int, purpose: Purpose, hours: float, last_a: float = 0.0) -> None:
        self.bench.open_set(
            job, NewSet(purpose=purpose, rest_since=self.at - timedelta(hours=hours), last_current_a=last_a)
        )

    def charge(self, job: int, string: String, group: int, current_a: float) -> None:
        """A whole charge of one group on the bench model, and the reading that ends it."""
        view = self.bench.start_charge(job, NewCharge(group=group, target="match", current_a=current_a))
        run = view.facts.charges[-1]
        # The charger's own voltage is right to a few mV; it counts what went in.
        took_s, counted = string.charge(group, run.target_v + 0.004, current_a, run.cutoff_a)
        self.later(seconds=took_s)
        string.rest()
        volts = self.meter.read(string, GroupPoint(group=group))
        outcome = ChargeOutcome(outcome="finished", volts=volts, counted_ah=round(counted, 2))
        self.bench.end_charge(job, run.id, outcome)


def build(db: Database, now: datetime | None = None) -> None:
    """Fill an empty data file with the demo's jobs, ending at `now`."""
    now = now or clock.now()
    tell = _Teller(db, now - timedelta(days=9))
    tell.bench.set_meter(METER)
    _finished(tell, now - timedelta(days=6, hours=3))
    _quarantined(tell, now - timedelta(days=2, hours=5))
    _flat_all_winter(tell, now - timedelta(hours=21))
    _does_not_add_up(tell, now - timedelta(hours=3))
    _charging(tell, now - timedelta(hours=2, minutes=20), now)
    _resting(tell, now - timedelta(hours=8), now)
    _being_probed(tell, now - timedelta(minutes=26))
    _just_taken_in(tell, now - timedelta(minutes=9))


def _shears(team: str, serial: str, note: str = "") -> Intake:
    return Intake(
        customer=f"Row team {team}",
        pack_name=f"Vine shears backpack {team}",
        serial=serial,
        pack=SHEARS,
        symptoms=["full_at_once", "dies_under_load"],
        note=note,
    )


def _drifted(tell: _Teller, low: dict[int, float]) -> String:
    socs = tell.level_socs(SHEARS.series, 0.90)
    for group, soc in low.items():
        socs[group - 1] = soc
    return String(SHEARS, socs)


def _finished(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    string = _drifted(tell, {4: 0.46})
    job = tell.bench.take_in(_shears("A", "VS-0131"), NOTHING_FOUND).facts.id
    tell.later(minutes=6)
    tell.rested_set(job, "probe", hours=14)
    tell.read_all(job, string, SHEARS, "taps")
    tell.bench.go_to(job, "judge")
    tell.later(minutes=4)
    tell.bench.go_to(job, "level")
    tell.charge(job, string, 4, 2.5)
    tell.bench.go_to(job, "prove")
    tell.later(hours=15)
    tell.rested_set(job, "prove", hours=15, last_a=2.5)
    tell.read_all(job, string, SHEARS, "taps", "prove")
    tell.bench.go_to(job, "hand_over")
    tell.later(minutes=3)
    tell.bench.sign_off(job, NewSignOff(by="Ilka", reason=""))


def _quarantined(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    intake = Intake(
        customer="Cellar, upper house",
        pack_name="Hand scrubber, cellar",
        serial="HS-0412",
        pack=SCRUBBER,
        symptoms=["dead", "was_dropped"],
        note="Fell from the pallet stacker; the case bulges at the foot.",
    )
    tell.bench.take_in(intake, Safety(swollen=True, leaking=False, hot=False, wet=False, crushed=True, smell=False))


def _flat_all_winter(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    intake = Intake(
        customer="East terrace",
        pack_name="Frost-fan remote battery",
        serial="FF-077",
        pack=FROST_FAN,
        symptoms=["charger_refuses", "stood_unused"],
        note="Left switched on in the shed since the last harvest.",
    )
    flat = CellFault(kind="run_flat", group=3, size=0.62)
    string = String(FROST_FAN, tell.level_socs(4, 0.06, 0.006), [flat])
    job = tell.bench.take_in(intake, NOTHING_FOUND).facts.id
    tell.later(minutes=10)
    tell.rested_set(job, "probe", hours=200)
    tell.read_all(job, string, FROST_FAN, "groups")
    tell.bench.go_to(job, "judge")


def _does_not_add_up(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    intake = Intake(
        customer="Bottling line 2",
        pack_name="Bottle-washer hand scrubber",
        serial="HS-0409",
        pack=SCRUBBER,
        symptoms=["charger_refuses", "got_wet"],
        note="Runs as it should, but the charger blinks and will not start.",
    )
    broken = WireFault(kind="open", tap=3, to_lower_ohm=2.2e6, to_upper_ohm=6.8e6)
    string = String(SCRUBBER, tell.level_socs(5, 0.72), [broken], curve=1)
    job = tell.bench.take_in(intake, NOTHING_FOUND).facts.id
    tell.later(minutes=12)
    tell.rested_set(job, "probe", hours=20)
    tell.read_all(job, string, SCRUBBER, "groups")


def _charging(tell: _Teller, start: datetime, now: datetime) -> None:
    tell.go(start)
    string = _drifted(tell, {7: 0.31, 11: 0.55})
    job = tell.bench.take_in(_shears("B", "VS-0147", "Cut out twice on the first morning."), NOTHING_FOUND).facts.id
    tell.later(minutes=8)
    tell.rested_set(job, "probe", hours=11)
    for point in points_of(SHEARS, "taps"):
        slip = point.kind == "tap" and point.tap == 6
        reading = tell.read(job, string, point, slip_v=1.8 if slip else 0.0)
        if slip:
            tell.correct(job, string, point, reading)
    tell.bench.go_to(job, "judge")
    tell.later(minutes=5)
    tell.bench.go_to(job, "level")
    tell.go(now - timedelta(minutes=47))
    tell.bench.start_charge(job, NewCharge(group=7, target="match", current_a=2.5))


def _resting(tell: _Teller, start: datetime, now: datetime) -> None:
    tell.go(start)
    string = _drifted(tell, {2: 0.72})
    job = tell.bench.take_in(_shears("D", "VS-0150"), NOTHING_FOUND).facts.id
    tell.later(minutes=5)
    tell.rested_set(job, "probe", hours=9)
    tell.read_all(job, string, SHEARS, "taps")
    tell.bench.go_to(job, "judge")
    tell.bench.go_to(job, "level")
    tell.charge(job, string, 2, 2.5)
    tell.bench.go_to(job, "prove")
    tell.go(now - timedelta(minutes=6))
    tell.bench.open_set(job, NewSet(purpose="prove", rest_since=tell.at, last_current_a=2.5))


def _being_probed(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    string = _drifted(tell, {7: 0.26, 11: 0.5})
    job = tell.bench.take_in(_shears("C", "VS-0149", "Third season; never levelled."), NOTHING_FOUND).facts.id
    tell.later(minutes=12)
    tell.rested_set(job, "probe", hours=16)
    for point in points_of(SHEARS, "taps")[:8]:
        slip = point.kind == "tap" and point.tap == 5
        reading = tell.read(job, string, point, slip_v=0.9 if slip else 0.0)
        if slip:
            tell.correct(job, string, point, reading)


def _just_taken_in(tell: _Teller, start: datetime) -> None:
    tell.go(start)
    intake = Intake(
        customer="West terrace",
        pack_name="Frost-fan remote battery, west",
        serial="FF-081",
        pack=FROST_FAN,
        symptoms=["short_run"],
        note="",
    )
    tell.bench.take_in(intake, None)

"""Tells the demo's story: acts on the bench at times of its own, each pack read through its stand-in meter."""

import uuid
from datetime import datetime, timedelta
from typing import Literal

import numpy as np

from saldatura.battery.meter import Meter
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import GroupPoint, Pack, Point
from saldatura.instruments.meter import StandInMeter
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.assessment import PackClock
from saldatura.job.assessment.level_planning import LevelPlanQuestion, level_plan_of
from saldatura.job.facts import (
    EndOfCharge,
    Intake,
    JobFacts,
    NewCharge,
    NewReading,
    NewSet,
    NewStage,
    Purpose,
    Safety,
    VirtualPackFact,
)
from saldatura.job.minding.charge import setting_of
from saldatura.job.run import points_of
from saldatura.job.stages import Stage
from saldatura.records import charge_log
from saldatura.records import virtual as records
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.instrument import ClipPlace, Probes

SEED = 20_241
LOG_EVERY_S = 20.0
METER_NAME = "stand-in multimeter"
METER = Meter(percent=0.5, digits=2, resolution_v=0.001)


class Teller:
    """Tells the demo's story: acts on the bench at times of its own, each pack read through its stand-in meter."""

    def __init__(self, db: Database, start: datetime) -> None:
        self.at = start
        self.bench = Bench(db, now=lambda: self.at)
        self.bench.pack_clock = self._clock
        self.rng = np.random.default_rng(SEED)
        self.packs: dict[int, tuple[VirtualPack, StandInMeter]] = {}
        self.job = 0
        # When the shop's charger is off the pack before.
        self.charger_free = start - timedelta(days=3650)
        # The pattern that packs taken in are of, until another is told.
        self.pattern: int | None = None
        # Of each job's driven channels: the charge, the pack's clock when it began, and what was measured.
        self.logs: dict[int, dict[str, tuple[int, float, list[tuple[float, float, float, float]]]]] = {}

    def go(self, to: datetime) -> None:
        """On to a moment; the pack at hand lives through the time between."""
        if self.job in self.packs and to > self.at:
            passed = (to - self.at).total_seconds()
            if self.job in self.logs:
                self._logged(passed)
            else:
                self.packs[self.job][0].pass_time(passed)
        self.at = to

    def later(self, **by: float) -> None:
        self.go(self.at + timedelta(**by))

    def begin(self, at: datetime) -> None:
        """Another job's story, at a moment of its own."""
        self.job, self.at = 0, at

    def take_in(
        self, intake: Intake, safety: Safety | None, spec: PackSpec | None = None, pattern: int | None = None
    ) -> int:
        """A pack over the counter, with the virtual pack that stands for it; `pattern`: the number of the one it is of."""
        self.job = self.bench.take_in(intake, safety, pattern=pattern or self.pattern).facts.id
        if spec is not None:
            pack = VirtualPack(intake.pack, spec, wall=lambda: 0.0)
            self.packs[self.job] = (pack, StandInMeter(pack, METER, f"{self.job:04d}-1", hands=False))
            self.add(spec)
        return self.job

    def again(self, spec: PackSpec) -> None:
        """The pack at hand is from now on another: what was mended on it is whole."""
        pack, clock_s = self.bench.facts(self.job).intake.pack, self.packs[self.job][0].clock_s
        mended = VirtualPack(pack, spec, wall=lambda: 0.0)
        mended.clock_s = clock_s
        self.packs[self.job] = (mended, StandInMeter(mended, METER, f"{self.job:04d}-2", hands=False))
        self.add(spec)

    def renew(self, job: int, at: datetime, new: dict[int, float]) -> None:
        """Other cells in groups of a job's pack, at that state of charge; all else of it as it stands."""
        self.job, self.at = job, at
        state = self.packs[job][0].rig.state.soc
        self.again(PackSpec(soc=[new.get(k, float(group.mean())) for k, group in enumerate(state, start=1)], seed=SEED))

    def add(self, new: object) -> JobFacts:
        """An act on the job at hand; its facts then."""
        return self.bench.record(self.job, new)

    def go_to(self, stage: Stage) -> None:
        self.add(NewStage(stage=stage))

    def level_socs(self, count: int, soc: float, spread: float = 0.004) -> list[float]:
        return [float(s) for s in soc + self.rng.normal(0, spread, count)]

    def read(self, point: Point, purpose: Purpose = "probe", slip_v: float = 0.0) -> int:
        self.later(seconds=float(self.rng.uniform(3, 6)))
        volts = round(self.shown(point) + slip_v, 6)
        new = NewReading(purpose=purpose, point=point, volts=volts, key=self.key(), source=METER_NAME)
        return self.add(new).last_id

    def shown(self, point: Point) -> float:
        pack, meter = self.packs[self.job]
        black, red = pack.pack.span(point)
        pack.place(Probes(at="terminals") if point.kind == "pack" else Probes(at="taps", black=black, red=red))
        return meter.volts()

    def key(self) -> str:
        return str(uuid.UUID(bytes=self.rng.bytes(16)))

    def read_all(self, pack: Pack, scheme: Literal["taps", "groups"], purpose: Purpose = "probe") -> None:
        for point in points_of(pack, scheme):
            self.read(point, purpose)

    def correct(self, point: Point, old: int) -> None:
        self.later(seconds=8)
        new = NewReading(
            point=point, volts=self.shown(point), key=self.key(), supersedes=old, reason="read again", source=METER_NAME
        )
        self.add(new)

    def rested_set(self, purpose: Purpose, hours: float, last_a: float = 0.0) -> None:
        since = self.at - timedelta(hours=hours)
        self.add(NewSet(purpose=purpose, rest_since=since, last_current_a=last_a))

    def start_charge(self, group: int, current_a: float, channel: str | None = None) -> int:
        """Put a group on the stand-in charger, which stands for that channel of the shop; the charge's number."""
        clip_v = None if channel is None else round(self.shown(GroupPoint(group=group)), 3)
        new = NewCharge(
            group=group,
            target="match",
            current_a=current_a,
            channel=channel,
            clip_v=clip_v,
            rest_v=None if channel is None else self.matched_at(),
        )
        run = self.add(new).charges[-1]
        pack = self.packs[self.job][0]
        pack.hook("cell_charger")
        # The charger's own voltage is right to a few mV.
        volts, cutoff = run.target_v + 0.004, run.cutoff_a
        pack.set_source("cell_charger", on=True, group=group, volts=volts, amps=current_a, cutoff_a=cutoff)
        return run.id

    def matched_at(self) -> float:
        """The rest voltage that the plan over the shop's channels would match the groups of the job at hand at."""
        facts, bench = self.bench.facts(self.job), self.bench
        asked = LevelPlanQuestion(target="match", without=["grey supply", "10 W resistor"])
        return level_plan_of(facts, asked, bench.shop().channels, bench.policy()).plan.target_rest_v

    def start_driven(self, group: int, channel: str, rest_v: float) -> None:
        """Clip a stand-in channel to a group and switch it on, as the program does; its log grows while time passes."""
        clip_v = round(self.shown(GroupPoint(group=group)), 3)
        new = NewCharge(group=group, target="match", rest_v=rest_v, channel=channel, clip_v=clip_v, driven=True)
        run = self.add(new).charges[-1]
        pack, to = self.packs[self.job][0], setting_of(run)
        pack.clip(channel, ClipPlace(group=group))
        stops = next(c.stops for c in self.bench.shop().channels if c.name == channel)
        cutoff_a = to.cutoff_a if stops else 0.0
        pack.set_output(channel, volts=to.volts, amps=to.amps, over_v=to.over_v, cutoff_a=cutoff_a, on=True)
        self.logs.setdefault(self.job, {})[channel] = (run.id, self._clock_s(), [])

    def _clock_s(self) -> float:
        return self.packs[self.job][0].clock_s

    def _logged(self, seconds: float) -> None:
        """Time passes for a pack that channels drive, each of them logged."""
        pack, left = self.packs[self.job][0], seconds
        while left > 0:
            pack.pass_time(min(left, LOG_EVERY_S))
            left -= LOG_EVERY_S
            for channel, (_, began, rows) in self.logs[self.job].items():
                amps, warm = pack.output_amps(channel), float(pack.rig.state.celsius.max())
                rows.append((self._clock_s() - began, pack.output_volts(channel), amps, warm))

    def charge(self, group: int, current_a: float, channel: str | None = None) -> None:
        """A whole charge of one group, and the reading a moment after the charger stopped."""
        charge = self.start_charge(group, current_a, channel)
        pack = self.packs[self.job][0]
        while pack.running:
            self.later(seconds=20)
        counted = pack.sources["cell_charger"].ah
        pack.hook(None)
        self.later(seconds=40)
        volts = self.shown(GroupPoint(group=group))
        self.add(EndOfCharge(charge=charge, outcome="finished", volts=volts, counted_ah=round(counted, 2)))

    def keep(self) -> None:
        """Leave every pack on the bench as it stands now, for the stand-ins to go on with."""
        with self.bench.db.write() as db:
            for job, (pack, _) in self.packs.items():
                virtual_id = self.bench.facts(job).of_kind(VirtualPackFact)[-1].id
                records.save(db, virtual_id, pack.save(), pack.running, self.at)
                records.add_samples(db, virtual_id, pack.take_samples(), self.at)
            for channels in self.logs.values():
                for charge, _, rows in channels.values():
                    charge_log.add(db, charge, np.array(rows))

    def _clock(self, job_id: int) -> PackClock | None:
        return self.packs[job_id][0].clock if job_id in self.packs else None

"""Racks: the stand-ins of virtual packs, each polled while somebody looks or something drives it, and saved where it stands."""

import logging
import sqlite3

from saldatura.battery import errors
from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.minding import NAMED_SHARE
from saldatura.battery.limits.pace import JUST_ON_S
from saldatura.battery.pack.spec import PackSpec
from saldatura.instruments.hub.kept_racks import KeptRacks
from saldatura.instruments.hub.live import Hookup, NewClock
from saldatura.instruments.link import LinkError
from saldatura.instruments.rack import Rack
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.assessment import Driving, JobView, PackClock
from saldatura.job.facts import EndOfCharge, JobFacts, NewCharge, NewReading, NewSet, VirtualPackFact
from saldatura.job.facts.structure import Structure
from saldatura.job.gates import charge as charge_gates
from saldatura.job.gates import common as gates
from saldatura.records import virtual as records
from saldatura.records.facts import NoSuchJob
from saldatura.shop.instrument import KINDS, Probes, Source, SourceKind

log = logging.getLogger("saldatura")


class Racks(KeptRacks):
    """The racks of all jobs with a virtual pack, made when first asked for."""

    def wake(self) -> None:
        """Virtual packs that were being driven go on."""
        for job_id in records.running_jobs(self.bench.db.read()):
            try:
                self.rack_of(job_id)
            except NoSuchJob:
                log.exception("the virtual pack of job %d cannot be read", job_id)

    def close(self) -> None:
        """Save where everything stands, and stop listening."""
        try:
            self.save(every=True)
        except sqlite3.DatabaseError:
            log.exception("where the virtual packs stand could not be saved")
        with self._lock:
            for held in self._racks.values():
                if held is not None:
                    held[1].close()
        if self._sockets is not None:
            self._sockets.close()

    # --- acts

    def clock(self, job_id: int) -> PackClock | None:
        """The clock of a job's virtual pack, None for a real pack."""
        rack = self.rack_of(job_id)
        if rack is None:
            return None
        rack.virtual.settle()
        return rack.virtual.clock

    def make(self, job_id: int, spec: PackSpec) -> None:
        """Give a job a virtual pack, in place of any it had. Raises Impossible, Refused."""
        virtual = VirtualPack(self.bench.facts(job_id).intake.pack, spec)

        def drive(db: object, after: JobFacts) -> None:
            fact = after.of_kind(VirtualPackFact)[-1]
            records.save(db, fact.id, virtual.save(), running=False, at=fact.at)  # type: ignore[arg-type]

        self.bench.add(job_id, spec, drive)
        with self._lock:
            old = self._racks.pop(job_id, None)
        if old is not None:
            old[1].close()
        self.rack_of(job_id)

    def set_clock(self, job_id: int, new: NewClock) -> None:
        """Change a virtual clock's speed, or pause it."""
        self.must(job_id).virtual.set_clock(new.speed, new.paused)
        self.save_one(job_id)
        # No fact, but what is waited for is over sooner or later now.
        self.bench.tell(job_id, self.bench.facts(job_id).last_id)

    def place(self, job_id: int, probes: Probes) -> None:
        """Put the stand-in meter's probes somewhere."""
        self.must(job_id).place(probes)

    def move_part(self, job_id: int, seconds: float) -> None:
        """Move leads and connectors of a virtual pack for a while."""
        self.must(job_id).virtual.move_part(seconds)

    def hook_up(self, job_id: int, new: Hookup) -> None:
        """Hook an instrument up to a virtual pack and switch it. Raises Impossible, Refused."""
        rack = self.must(job_id)
        facts = self.bench.facts(job_id)
        gates.not_signed(facts)
        if new.kind is None:
            rack.virtual.hook(None)
        else:
            busy = facts.charging
            if busy is not None and rack.virtual.running:
                raise errors.Refused(
                    "charging",
                    "group_on_charger",
                    f"group {busy.group} is still on the charger; end its charge in Level first",
                )
            if new.source.on:
                self._gate(facts, new.kind, new.source)
            _drive(rack, new.kind, new.source)
            ends = {name: getattr(new.source, name) for name in ("stop_after_s", "group_low_v", "hottest_c")}
            rack.virtual.set_source(new.kind, **ends)
        self.save_one(job_id)
        # What drives a pack stands on every window's rail.
        self.bench.tell(job_id, facts.last_id)

    def start_charge(self, job_id: int, new: NewCharge) -> JobView:
        """Record that a group was put on the charger, a virtual pack's group on the stand-in one: both, or neither."""
        if not new.stand_in:
            return self.bench.add(job_id, new)
        rack, driven = self.must(job_id), list[bool]()
        # The virtual pack has one such charger.
        gates.not_charging(self.bench.facts(job_id))

        def drive(_db: object, after: JobFacts) -> None:
            run = after.charges[-1]
            source = Source(on=True, volts=run.target_v, amps=run.current_a, cutoff_a=run.cutoff_a, group=run.group)
            driven.append(True)
            _drive(rack, "cell_charger", source)

        try:
            view = self.bench.add(job_id, new, drive)
        except BaseException:
            if driven:
                rack.virtual.hook(None)
            raise
        self.save_one(job_id)
        return view

    def end_charge(self, job_id: int, new: EndOfCharge, sure: bool = True) -> JobView:
        """Record that a charge ended; whatever drives the job's virtual pack is taken off."""
        view = self.bench.add(job_id, new, sure=sure)
        self.let_go(job_id)
        return view

    def let_go(self, job_id: int) -> None:
        """Take whatever drives a job's virtual pack off it, as when it is quarantined."""
        rack = self.rack_of(job_id)
        if rack is not None and rack.virtual.hooked is not None:
            rack.virtual.hook(None)
            self.save_one(job_id)

    def flows(self, job_id: int, new: object) -> None:
        """A set under load or charge, and each of its readings, wants the current to flow. Raises Refused.

        Of a real pack nobody but the technician knows.
        """
        purpose = getattr(new, "purpose", None)
        rack = self.rack_of(job_id) if purpose == "load" and isinstance(new, NewSet | NewReading) else None
        if rack is None:
            return
        rack.virtual.settle()
        reading_set = new if isinstance(new, NewSet) else self.bench.facts(job_id).last_set("load")
        wanted = reading_set.amps if reading_set is not None else 0.0
        source = rack.virtual.source
        flowing = rack.virtual.rig.amps if rack.virtual.running else 0.0
        if source is not None and source.on and source.seconds < JUST_ON_S:
            # Nothing has lived through it yet: what it is set to is what will flow.
            flowing = -source.amps if rack.virtual.hooked in ("load", "capacity_tester") else source.amps
        if wanted and (flowing * wanted <= 0 or abs(flowing) < NAMED_SHARE * abs(wanted)):
            what = "load" if wanted < 0 else "charger"
            raise errors.Refused(
                "load",
                "load_not_on",
                f"{abs(flowing):.2g} A flow and not {abs(wanted):g} A; switch the {what} on in Instruments first, and keep it on",
            )

    def driving(self) -> list[Driving]:
        """What drives a virtual pack now beside the charges that the record knows of."""
        with self._lock:
            held = [(job_id, h[1]) for job_id, h in self._racks.items() if h is not None and h[1].virtual.running]
        found = []
        for job_id, rack in held:
            facts, source = self.bench.facts(job_id), rack.virtual.source
            kind = rack.virtual.hooked
            if source is None or kind is None or (kind == "cell_charger" and facts.charging is not None):
                continue
            left = None if source.stop_after_s is None else max(source.stop_after_s - source.seconds, 0.0)
            found.append(
                Driving(
                    job_id=job_id,
                    pack_name=facts.intake.pack_name,
                    what=KINDS[kind].name,
                    amps=source.amps,
                    stops_in_s=left,
                )
            )
        return found

    def call_off(self, job_id: int) -> None:
        """Take the single-cell charger off a virtual pack that the record has on none."""
        rack = self.rack_of(job_id)
        if rack is not None and rack.virtual.hooked == "cell_charger" and self.bench.facts(job_id).charging is None:
            self.let_go(job_id)

    def forget(self, job_id: int) -> None:
        """Build the job's rack anew when it is next asked for, as after a corrected intake."""
        self.save_one(job_id)
        with self._lock:
            held = self._racks.pop(job_id, None)
        if held is not None:
            held[1].close()

    def part(self, job_id: int) -> None:
        """The strings of its virtual pack as they are told to be."""
        rack = self.rack_of(job_id)
        if rack is not None:
            rack.virtual.part(self.bench.facts(job_id).parted)
            self.save_one(job_id)

    def become(self, job_id: int, was: Structure) -> None:
        """Build the job's virtual pack as its pack has become: groups that stay keep their charge, what was put in has its own."""
        rack = self.rack_of(job_id)
        if rack is None:
            return
        facts = self.bench.facts(job_id)
        fact = facts.of_kind(VirtualPackFact)[-1]
        old = rack.virtual
        with old.lock:
            held = {(seat.was, seat.changed): float(old.rig.state.soc[k].mean()) for k, seat in enumerate(was.seats)}
            clock_s = old.clock_s
        curve = middle_curve(facts.intake.pack.chemistry)
        usual = sum(held.values()) / len(held)
        soc = []
        for seat in facts.structure.seats:
            rests = [cell.rest_v for cell in seat.fitted or () if cell.rest_v is not None]
            new = float(curve.soc_at(sum(rests) / len(rests))) if rests else usual
            soc.append(min(max(held.get((seat.was, seat.changed), new), -0.1), 1.15))
        virtual = VirtualPack(facts.intake.pack, fact.spec.model_copy(update={"soc": soc}))
        virtual.clock_s = clock_s
        with self.bench.db.write() as db:
            records.save(db, fact.id, virtual.save(), running=False, at=self.bench.now())
        with self._lock:
            self._racks.pop(job_id, None)
        rack.close()

    def _gate(self, facts: JobFacts, kind: SourceKind, source: Source) -> None:
        """Driving a virtual pack asks what driving a real one would."""
        gates.work(facts)
        if kind == "cell_charger":
            charge_gates.charge(facts, NewCharge(group=source.group), self.bench.policy())
        elif kind in ("supply", "harness_charger"):
            charge_gates.charge_string(facts, self.bench.policy())

    # --- racks

    # --- what the polling thread does

    def poll(self) -> None:
        """Let the packs live on that are watched or driven, and read what is connected to them."""
        with self._lock:
            awake = [
                (job_id, held[1])
                for job_id, held in self._racks.items()
                if held is not None and (self.watchers[job_id] > 0 or held[1].virtual.running)
            ]
        for job_id, rack in awake:
            drove = rack.virtual.running
            try:
                rack.poll()
                if drove and not rack.virtual.running:
                    self.bench.tell(job_id, self.bench.facts(job_id).last_id)
            except Exception as error:  # one pack's trouble is not the others', and stands on its own screen
                log.exception("virtual pack of job %d failed", job_id)
                rack.failed(error)


def _drive(rack: Rack, kind: SourceKind, source: Source) -> None:
    try:
        complaint = rack.drive(kind, source)
    except LinkError as error:
        raise errors.Refused(
            "instrument", "no_answer", f"the stand-in {KINDS[kind].name} did not answer ({error.says}); try again"
        ) from error
    if complaint:
        raise Impossible("source", "refused_by_instrument", f"the {KINDS[kind].name} refuses: {complaint}")

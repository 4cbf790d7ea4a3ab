"""Everything that is connected: racks of stand-ins, the shop's own instruments, who watches, and the log kept."""

import logging
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from saldatura.bench import Bench
from saldatura.core import gates
from saldatura.core.errors import Impossible
from saldatura.core.instrument import KIND_WORDS, Probes, Source, SourceKind
from saldatura.core.job import JobFacts, PackClock
from saldatura.core.pack.spec import PackSpec
from saldatura.instruments.link import LinkError
from saldatura.instruments.rack import Rack, Watched
from saldatura.instruments.sockets import Sockets
from saldatura.instruments.virtual import VirtualPack
from saldatura.live import Hookup, LiveFrame, LiveInstrument, NewClock, shown, virtual_now
from saldatura.records import instruments as records

log = logging.getLogger("saldatura")

POLL_S = 0.2
# The shop's instruments are left alone when nobody has looked at them for so long.
SHOP_ASKED_S = 5.0
SLEEPS_AFTER_S = 20.0
SAVE_EVERY_S = 0.9


class Hall:
    """Threads: one polls the stand-ins of packs that are watched or driven, one each reads an instrument of the shop."""

    def __init__(self, bench: Bench, poll_s: float = POLL_S) -> None:
        self.bench = bench
        self.poll_s = poll_s
        self._lock = threading.RLock()
        self._racks: dict[int, tuple[int, Rack] | None] = {}
        self._watchers: Counter[int] = Counter()
        self._woken: set[int] = set()
        self._shop: dict[int, Watched] = {}
        self._sockets: Sockets | None = None
        self._stop = threading.Event()
        self._shop_asked = -SHOP_ASKED_S
        self._listeners: set[Callable[[], None]] = set()
        self._threads: list[threading.Thread] = []
        bench.pack_clock = self.clock

    # --- life

    def start(self) -> None:
        """Begin polling; virtual packs that were being driven go on."""
        for job_id in records.running_jobs(self.bench.db.read()):
            self._rack(job_id)
        self._spawn("instruments", self._poll_racks)
        with self._lock:
            for fact in records.present(self.bench.db.read()):
                self._watch_shop(fact)

    def stop(self) -> None:
        """Save where everything stands, and end the threads."""
        if self._stop.is_set():
            return
        self._stop.set()
        for thread in self._threads:
            thread.join(timeout=3)
        self._save(every=True)
        with self._lock:
            for held in self._racks.values():
                if held is not None:
                    held[1].close()
        if self._sockets is not None:
            self._sockets.close()

    @contextmanager
    def watching(self, job_id: int, listener: Callable[[], None] = lambda: None) -> Iterator[None]:
        """Poll a job's instruments while somebody looks; `listener` is called, from another thread, after every poll."""
        with self._lock:
            self._watchers[job_id] += 1
            self._listeners.add(listener)
        try:
            yield
        finally:
            with self._lock:
                self._watchers[job_id] -= 1
                self._listeners.discard(listener)

    # --- virtual packs

    def clock(self, job_id: int) -> PackClock | None:
        """The clock of a job's virtual pack, None for a real pack."""
        rack = self._rack(job_id)
        if rack is None:
            return None
        rack.virtual.settle()
        return rack.virtual.clock

    def make_virtual(self, job_id: int, spec: PackSpec) -> None:
        """Give a job a virtual pack, in place of any it had. Raises Impossible, Refused."""
        facts = self.bench.facts(job_id)
        gates.not_signed(facts)
        with self._lock:
            virtual = VirtualPack(facts.intake.pack, spec)
            with self.bench.db.write() as db:
                virtual_id = records.add_virtual(db, job_id, spec, self.bench.now())
                records.save(db, virtual_id, virtual.save(), running=False, at=self.bench.now())
            old = self._racks.pop(job_id, None)
            if old is not None:
                old[1].close()
        self._rack(job_id)

    def set_clock(self, job_id: int, new: NewClock) -> None:
        """Change a virtual clock's speed, or pause it."""
        self._must(job_id).virtual.set_clock(new.speed, new.paused)
        self._save_one(job_id)

    def place(self, job_id: int, probes: Probes) -> None:
        """Put the stand-in meter's probes somewhere."""
        rack = self._must(job_id)
        rack.virtual.place(probes)
        rack.measure("ohm" if probes.at == "sensor" else "volts")

    def move_part(self, job_id: int, seconds: float) -> None:
        """Move leads and connectors of a virtual pack for a while."""
        self._must(job_id).virtual.move_part(seconds)

    def hook_up(self, job_id: int, new: Hookup) -> None:
        """Hook an instrument up to a virtual pack and switch it. Raises Impossible, Refused."""
        rack = self._must(job_id)
        facts = self.bench.facts(job_id)
        gates.not_signed(facts)
        if new.kind is None:
            rack.virtual.hook(None)
        else:
            busy = next((run.group for run in facts.charges if run.end is None), None)
            if busy is not None and rack.virtual.running:
                raise gates.Refused("charging", f"group {busy} is still on the charger; end its charge in Level first")
            if new.source.on:
                self._gate(facts, new.kind, new.source)
            self._drive(rack, new.kind, new.source)
        self._save_one(job_id)

    def check_stand_in(self, job_id: int) -> None:
        """Raise Refused where a job has no virtual pack."""
        self._must(job_id)

    def charge_on_stand_in(self, job_id: int, group: int, volts: float, amps: float, cutoff_a: float) -> None:
        """Put a group that was just recorded as charging on the stand-in charger."""
        source = Source(on=True, volts=volts, amps=amps, cutoff_a=cutoff_a, group=group)
        self._drive(self._must(job_id), "cell_charger", source)
        self._save_one(job_id)

    def take_off(self, job_id: int) -> None:
        """Take whatever drives a job's virtual pack off it, if anything does."""
        rack = self._rack(job_id)
        if rack is not None and rack.virtual.hooked is not None:
            rack.virtual.hook(None)
            self._save_one(job_id)

    @staticmethod
    def _drive(rack: Rack, kind: SourceKind, source: Source) -> None:
        try:
            complaint = rack.drive(kind, source)
        except LinkError as error:
            raise gates.Refused(
                "instrument", f"the stand-in {KIND_WORDS[kind]} did not answer ({error.says}); try again"
            ) from error
        if complaint:
            raise Impossible("source", f"the {KIND_WORDS[kind]} refuses: {complaint}")

    @staticmethod
    def _gate(facts: JobFacts, kind: SourceKind, source: Source) -> None:
        """Driving a virtual pack asks what driving a real one would."""
        gates.work(facts)
        if kind == "cell_charger":
            gates.charge(facts, source.group)
        elif kind in ("supply", "harness_charger"):
            gates.charge_string(facts)

    def forget(self, job_id: int) -> None:
        """Build the job's rack anew when it is next asked for, as after a corrected intake."""
        self._save_one(job_id)
        with self._lock:
            held = self._racks.pop(job_id, None)
        if held is not None:
            held[1].close()

    # --- the shop's own

    def add_instrument(self, new: records.NewInstrument) -> None:
        """Enter an instrument of the shop."""
        with self.bench.db.write() as db:
            records.add(db, new, self.bench.now())
        self._refresh_shop()

    def remove_instrument(self, instrument_id: int) -> None:
        """Take an instrument off the list. Raises Impossible for one that is not there."""
        self._known(instrument_id)
        with self.bench.db.write() as db:
            records.remove(db, instrument_id, self.bench.now())
        with self._lock:
            self._shop.pop(instrument_id, None)

    def check_instrument(self, instrument_id: int, new: records.NewCheck) -> None:
        """Record a check against a reference."""
        self._known(instrument_id)
        with self.bench.db.write() as db:
            records.add_check(db, instrument_id, new, self.bench.now())

    def shop(self) -> list[tuple[records.InstrumentFact, LiveInstrument]]:
        """The shop's instruments, each with how it does."""
        self._shop_asked = time.monotonic()
        with self._lock:
            watched = dict(self._shop)
        facts = records.present(self.bench.db.read())
        return [(f, shown(f"shop-{f.id}", watched[f.id], True)) for f in facts if f.id in watched]

    # --- what a page sees

    def anything(self, job_id: int) -> bool:
        """Whether there is anything to show live of a job."""
        return bool(self._shop) or self._rack(job_id) is not None

    def frame(self, job_id: int, after: int | None = None) -> LiveFrame:
        """A job's instruments now; with `after`, the log's entries since that one too. Raises NoSuchJob."""
        self.bench.facts(job_id)
        rack = self._rack(job_id)
        found: list[LiveInstrument] = []
        samples: list[records.LoggedSample] = []
        if rack is not None:
            for kind, watched in rack.watched.items():
                connected = kind in ("meter", "thermometer", rack.virtual.hooked)
                found.append(shown(f"stand-in-{kind}", watched, connected))
            if after is not None:
                samples = records.samples_after(self.bench.db.read(), self._racks[job_id][0], after)  # type: ignore[index]
        found += [live for _, live in self.shop()]
        return LiveFrame(
            job_id=job_id,
            at=time.time(),
            virtual=virtual_now(rack.virtual) if rack is not None else None,
            instruments=found,
            samples=samples,
        )

    # --- inside

    def _must(self, job_id: int) -> Rack:
        rack = self._rack(job_id)
        if rack is None:
            raise gates.Refused("virtual", "this job's pack is a real one; give it a virtual pack in Instruments first")
        return rack

    def _rack(self, job_id: int) -> Rack | None:
        with self._lock:
            if job_id not in self._racks:
                self._racks[job_id] = self._load(job_id)
            held = self._racks[job_id]
            return held[1] if held is not None else None

    def _load(self, job_id: int) -> tuple[int, Rack] | None:
        db = self.bench.db.read()
        found = records.virtual_of(db, job_id)
        if found is None:
            return None
        virtual_id, spec, saved = found
        pack = self.bench.facts(job_id).intake.pack
        try:
            virtual = VirtualPack(pack, spec, saved)
        except Impossible:
            # The intake was corrected to another build since: the simulation is of a pack that is not there.
            return None
        self._sockets = self._sockets or Sockets()
        return virtual_id, Rack(pack, virtual, self.bench.meter(), self._sockets, f"{job_id:04d}")

    def _awake(self) -> list[tuple[int, int, Rack]]:
        with self._lock:
            return [
                (job_id, held[0], held[1])
                for job_id, held in self._racks.items()
                if held is not None and (self._watchers[job_id] > 0 or held[1].virtual.running)
            ]

    def _poll_racks(self) -> None:
        saved_at = time.monotonic()
        while not self._stop.wait(0.0):
            began = time.monotonic()
            for job_id, _id, rack in self._awake():
                try:
                    rack.poll()
                except Exception:  # one pack's trouble is not the others'
                    log.exception("virtual pack of job %d failed", job_id)
            if began - saved_at >= SAVE_EVERY_S:
                saved_at = began
                self._save()
                self._put_to_sleep()
            self._tell()
            self._stop.wait(max(self.poll_s - (time.monotonic() - began), 0.01))

    def _put_to_sleep(self) -> None:
        """Close the sockets of packs that nobody watches and nothing drives: there may be hundreds of them."""
        with self._lock:
            resting = [
                held[1]
                for job_id, held in self._racks.items()
                if held is not None and not self._watchers[job_id] and not held[1].virtual.running
            ]
        for rack in resting:
            if time.monotonic() - rack.used_at > SLEEPS_AFTER_S:
                rack.close()

    def _tell(self) -> None:
        with self._lock:
            listeners = list(self._listeners)
        for listener in listeners:
            listener()

    def _save(self, every: bool = False) -> None:
        """Write down where the packs stand that move, in one transaction; with those that have just stopped."""
        with self._lock:
            held = [(job, h[0], h[1]) for job, h in self._racks.items() if h is not None]
        due = []
        for job_id, virtual_id, rack in held:
            running = rack.virtual.running
            samples = rack.virtual.take_samples()
            if running or samples or every or job_id in self._woken:
                due.append((virtual_id, rack.virtual.save(), running, samples))
            (self._woken.add if running or self._watchers[job_id] > 0 else self._woken.discard)(job_id)
        if not due:
            return
        at = self.bench.now()
        with self.bench.db.write() as db:
            for virtual_id, saved, running, samples in due:
                records.save(db, virtual_id, saved, running, at)
                records.add_samples(db, virtual_id, samples, at)

    def _save_one(self, job_id: int) -> None:
        self._woken.add(job_id)
        self._save()

    def _refresh_shop(self) -> None:
        with self._lock:
            for fact in records.present(self.bench.db.read()):
                if fact.id not in self._shop:
                    self._watch_shop(fact)

    def _watch_shop(self, fact: records.InstrumentFact) -> None:
        watched = Watched.at(fact.kind, fact.name, fact.address, fact.accuracy)
        self._shop[fact.id] = watched
        self._spawn(f"instrument-{fact.id}", lambda: self._poll_shop(fact.id, watched))

    def _poll_shop(self, instrument_id: int, watched: Watched) -> None:
        # A thread of its own: whatever this instrument does, nobody else waits for it.
        while not self._stop.is_set() and self._shop.get(instrument_id) is watched:
            began = time.monotonic()
            if sum(self._watchers.values()) > 0 or began - self._shop_asked < SHOP_ASKED_S:
                watched.poll()
            self._stop.wait(max(self.poll_s - (time.monotonic() - began), 0.02))
        watched.link.close()

    def _known(self, instrument_id: int) -> None:
        if instrument_id not in self._shop:
            raise Impossible("instrument", f"there is no instrument {instrument_id}; Instruments lists those there are")

    def _spawn(self, name: str, run: Callable[[], None]) -> None:
        thread = threading.Thread(target=run, name=name, daemon=True)
        self._threads.append(thread)
        thread.start()

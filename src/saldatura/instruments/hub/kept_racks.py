"""Stand-ins as they are kept: taken from the data file when somebody asks, saved as they go, and let sleep."""

import threading
import time
from collections import Counter

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.pace import SLEEPS_AFTER_S
from saldatura.instruments.rack import Rack
from saldatura.instruments.sockets import Sockets
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.facts import VirtualPackFact
from saldatura.records import virtual as records
from saldatura.records.bench import Bench


class KeptRacks:
    """The racks of all simulated packs, by job."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.watchers: Counter[int] = Counter()
        self._lock = threading.RLock()
        self._racks: dict[int, tuple[int, Rack] | None] = {}
        self._woken: set[int] = set()
        self._sockets: Sockets | None = None

    def rack_of(self, job_id: int) -> Rack | None:
        """A job's rack; None for a real pack."""
        with self._lock:
            if job_id not in self._racks:
                self._racks[job_id] = self._load(job_id)
            held = self._racks[job_id]
            return held[1] if held is not None else None

    def must(self, job_id: int) -> Rack:
        """A job's rack. Raises Refused for a real pack."""
        rack = self.rack_of(job_id)
        if rack is None:
            raise errors.Refused(
                "virtual", "real_pack", "this job's pack is a real one; give it a virtual pack in Instruments first"
            )
        return rack

    def samples(self, job_id: int, after: int) -> list[records.LoggedSample]:
        """The log of a job's virtual pack after an entry."""
        with self._lock:
            held = self._racks.get(job_id)
        return records.samples_after(self.bench.db.read(), held[0], after) if held is not None else []

    def _load(self, job_id: int) -> tuple[int, Rack] | None:
        facts = self.bench.facts(job_id)
        found = facts.of_kind(VirtualPackFact)[-1:]
        saved = records.saved_of(self.bench.db.read(), found[0]) if found else None
        if not found or saved is None:
            return None
        try:
            virtual = VirtualPack(facts.intake.pack, found[0].spec, saved)
            virtual.part(facts.parted)
        except Impossible:
            # The intake was corrected to another build since: the simulation is of a pack that is not there.
            return None
        self._sockets = self._sockets or Sockets()
        rack = Rack(facts.intake.pack, virtual, self.bench.meter(), self._sockets, f"{job_id:04d}")
        return found[0].id, rack

    def put_to_sleep(self) -> None:
        """Close the sockets of packs that nobody watches and nothing drives: there may be hundreds of them."""
        with self._lock:
            resting = [
                held[1]
                for job_id, held in self._racks.items()
                if held is not None and not self.watchers[job_id] and not held[1].virtual.running
            ]
        for rack in resting:
            if time.monotonic() - rack.used_at > SLEEPS_AFTER_S:
                rack.close()

    def save(self, every: bool = False) -> None:
        """Write down where the packs stand that move, in one transaction; with those that have just stopped."""
        with self._lock:
            held = [(job, h[0], h[1]) for job, h in self._racks.items() if h is not None]
        due = []
        for job_id, virtual_id, rack in held:
            running = rack.virtual.running
            samples = rack.virtual.take_samples()
            if running or samples or every or job_id in self._woken:
                due.append((virtual_id, rack.virtual.save(), running, samples))
            (self._woken.add if running or self.watchers[job_id] > 0 else self._woken.discard)(job_id)
        if not due:
            return
        at = self.bench.now()
        with self.bench.db.write() as db:
            for virtual_id, saved, running, samples in due:
                records.save(db, virtual_id, saved, running, at)
                records.add_samples(db, virtual_id, samples, at)

    def save_one(self, job_id: int) -> None:
        """Write down where a job's virtual pack stands now."""
        self._woken.add(job_id)
        self.save()

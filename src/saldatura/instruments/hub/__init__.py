"""Everything that is connected: racks of stand-ins, the shop's own instruments, and who watches."""

import contextlib
import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.pace import SAVE_EVERY_S
from saldatura.battery.pack.spec import PackSpec
from saldatura.instruments.hub.clock_watch import ClockWatch
from saldatura.instruments.hub.frame import LiveFrame
from saldatura.instruments.hub.live import LiveInstrument, shown, virtual_now
from saldatura.instruments.hub.loads import Loads
from saldatura.instruments.hub.outputs import Outputs
from saldatura.instruments.hub.racks import Racks
from saldatura.instruments.hub.shop import SHOWS, ShopInstruments
from saldatura.instruments.hub.switchboard import Switchboard
from saldatura.instruments.link import Link
from saldatura.instruments.practice import PracticePorts
from saldatura.job.assessment import JobView
from saldatura.job.assessment.waiting import Ringing
from saldatura.job.facts import EndOfCharge, NewCharge, NewStop
from saldatura.job.facts.structure import Structure
from saldatura.job.gates import common as gates
from saldatura.records.bench import Bench
from saldatura.records.switched import Switch

log = logging.getLogger("saldatura")

POLL_S = 0.2


class InstrumentHub:
    """One thread polls the stand-ins of packs that are watched or driven, one each reads an instrument of the shop."""

    def __init__(self, bench: Bench, poll_s: float = POLL_S) -> None:
        self.bench = bench
        self.poll_s = poll_s
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._listeners: set[Callable[[], None]] = set()
        self._thread: threading.Thread | None = None
        self.racks = Racks(bench)
        self.practice = PracticePorts()
        self.shop = ShopInstruments(bench, self._stop, poll_s, lambda: sum(self.racks.watchers.values()) > 0)
        self.clock = ClockWatch(bench)
        self.board = Switchboard(bench)
        self.outputs = Outputs(bench, self.racks, self.shop, self.board)
        self.loads = Loads(bench, self.shop, self.outputs, self.board)
        bench.pack_clock = self.racks.clock
        bench.fitted = self.outputs.fits
        bench.changed.append(self._changed)

    def start(self) -> None:
        """Begin polling."""
        self._stop.clear()
        self.racks.wake()
        self.clock.began()
        self._thread = threading.Thread(target=self._poll, name="instruments", daemon=True)
        self._thread.start()
        self.shop.refresh()
        self.board.wake(self._link_at, self._goes_on, self._confirmed)
        self.outputs.wake()
        self.loads.wake()

    def stop(self) -> None:
        """Save where everything stands, and end the threads."""
        if self._stop.is_set():
            return
        # Before the instruments are left alone: what is on goes off.
        self.outputs.close()
        self.loads.close()
        self.board.close()
        self.clock.ended()
        self._stop.set()
        for thread in (self._thread, *self.shop.threads):
            if thread is not None:
                thread.join(timeout=3)
        self.racks.close()
        self.practice.unplug()

    @contextmanager
    def watching(self, job_id: int, listener: Callable[[], None] = lambda: None) -> Iterator[None]:
        """Poll a job's instruments while somebody looks; `listener` is called, from another thread, after every poll."""
        with self._lock:
            self.racks.watchers[job_id] += 1
            self._listeners.add(listener)
        try:
            yield
        finally:
            with self._lock:
                self.racks.watchers[job_id] -= 1
                self._listeners.discard(listener)

    def start_charge(self, job_id: int, new: NewCharge) -> JobView:
        """A group goes on the charger: on an output that the program drives, on the stand-in charger, or by hand."""
        with self.board.alone(job_id):
            if self.board.running(job_id, "load"):
                raise errors.Refused("charging", "under_load", "a load is on this pack; switch it off first")
            return self.outputs.start(job_id, new) if new.driven else self.racks.start_charge(job_id, new)

    def end_charge(self, job_id: int, new: EndOfCharge, sure: bool) -> JobView:
        """Record that a charge ended; whatever drives it is off first."""
        self.outputs.end(job_id, new.charge)
        view = self.racks.end_charge(job_id, new, sure)
        self.outputs.ended(new.charge)
        return view

    def make_virtual(self, job_id: int, spec: PackSpec) -> None:
        """Give a job a virtual pack. Raises Refused while a charge of it runs."""
        with self.board.alone(job_id):
            gates.not_charging(self.bench.facts(job_id))
            if self.board.running(job_id):
                raise errors.Refused(
                    "load",
                    "driven_by_instrument",
                    "an instrument is on this pack, so it is a real one; switch it off first",
                )
            self.racks.make(job_id, spec)

    def nothing_drives(self, job_id: int) -> None:
        """Nothing is signed while an instrument drives its pack. Raises Refused."""
        rack = self.racks.rack_of(job_id)
        # One that is only being switched on looks again whether it may, and goes off.
        if (rack is not None and rack.virtual.running) or self.board.running(job_id, settled=True):
            raise errors.Refused(
                "charging",
                "driven_by_instrument",
                "an instrument still drives this pack, or has not said that it is off; switch it off first",
            )

    def let_go(self, job_id: int) -> None:
        """Take off whatever drives a job's pack, as when it is quarantined."""
        self.racks.let_go(job_id)
        self.outputs.let_go(job_id)
        self.loads.let_go(job_id)

    def call_off(self, job_id: int) -> None:
        """Take off what the record has on no charge any more."""
        self.racks.call_off(job_id)
        self.outputs.let_go(job_id, but_running=True)

    def forget(self, job_id: int) -> None:
        """Build the job's rack anew, as after a corrected intake; what is driven goes on."""
        self.racks.forget(job_id)
        self.outputs.again(job_id)

    def become(self, job_id: int, was: Structure) -> None:
        """Build the job's virtual pack as its pack has become, from what it was; nothing drives it then."""
        self.racks.become(job_id, was)

    def ringing(self) -> list[Ringing]:
        """What rings over all jobs of what the program drives."""
        return [*self.outputs.ringing(), *self.board.ringing(self._pack_name)]

    def _pack_name(self, job_id: int) -> str:
        try:
            return self.bench.facts(job_id).intake.pack_name
        except Exception:  # a job that cannot be read keeps nothing from ringing
            return f"job {job_id:04d}"

    def _link_at(self, switch: Switch) -> Link:
        # Under whatever name its port is known today.
        every = (w.link for w in self.shop.every() if isinstance(w.link, Link))
        return next((link for link in every if link.address.key == switch.address.key), None) or Link(switch.address)

    def _goes_on(self, switch: Switch) -> bool:
        facts = self.bench.facts(switch.job_id)
        run = next((run for run in facts.charges if run.id == switch.charge_id), None)
        return switch.drives == "output" and run is not None and self.outputs.goes_on(facts, run)

    def _confirmed(self, switch: Switch, by: str) -> None:
        """What the last program left on is off: kept with its charge, where that has not ended."""
        if switch.charge_id is None:
            return
        with contextlib.suppress(errors.Refused, Impossible):
            says = (
                f"{by} saw that it is off."
                if by
                else "It was on, or not known to be off, when the program came back; it answers and is off."
            )
            self.bench.add(switch.job_id, NewStop(charge=switch.charge_id, why="ended", says=says, off=True))

    def anything(self, job_id: int) -> bool:
        """Whether there is anything to show live of a job."""
        return self.shop.any or self.racks.rack_of(job_id) is not None

    def frame(self, job_id: int, after: int | None = None) -> LiveFrame:
        """A job's instruments now; with `after`, the log's entries since that one too. Raises NoSuchJob."""
        self.bench.facts(job_id)
        rack = self.racks.rack_of(job_id)
        found: list[LiveInstrument] = []
        if rack is not None:
            for kind, watched in rack.watched.items():
                found.append(shown(f"stand-in-{kind}", watched, rack.connected(kind)))
        found += [live for _, live in self.shop.all()]
        return LiveFrame(
            job_id=job_id,
            at=time.time(),
            virtual=virtual_now(rack.virtual) if rack is not None else None,
            instruments=found,
            samples=self.racks.samples(job_id, after) if after is not None else [],
            driven=self.outputs.now(job_id),
            load_run=self.loads.now(job_id),
        )

    def _changed(self, job_id: int | None, _last_id: int, what: str) -> None:
        if job_id is None and what != SHOWS and self._thread is not None and not self._stop.is_set():
            self.shop.refresh()

    def _poll(self) -> None:
        saved_at = time.monotonic()
        while not self._stop.is_set():
            began = time.monotonic()
            try:
                self.racks.poll()
                self.clock.look()
                if began - saved_at >= SAVE_EVERY_S:
                    saved_at = began
                    self.racks.save()
                    self.racks.put_to_sleep()
            except Exception:  # a full disk is no reason to stop reading
                log.exception("the instruments could not be saved")
            self._tell()
            self._stop.wait(max(self.poll_s - (time.monotonic() - began), 0.01))

    def _tell(self) -> None:
        with self._lock:
            listeners = list(self._listeners)
        for listener in listeners:
            listener()

"""Everything that the program switches on a pack: one way on, and told off until it confirms, over the program's own end."""

import contextlib
import logging
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import datetime
from typing import Protocol

from saldatura.battery.errors import Refused
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.load import LoadInput
from saldatura.instruments.output import ScpiOutput
from saldatura.job.assessment.waiting import NotOff, Ringing
from saldatura.records import switched
from saldatura.records.bench import Bench
from saldatura.records.switched import State, Switch
from saldatura.shop.address import Place

log = logging.getLogger("saldatura")

# One that did not confirm is told off again after so long. An act waits so long for another on the same pack or instrument.
AGAIN_S, WAIT_S = 1.0, 20.0


class Switched(Protocol):
    """What can be told off."""

    link: Link

    def off(self) -> None:
        """Switch it off, and see that it is. Raises LinkError."""
        ...


@dataclass
class _On:
    """A switch that is on, is being switched on, or has not confirmed that it is off. `kept`: the program's end does not end it."""

    switch: Switch
    kept: bool
    since: datetime
    settled: bool = False
    wanted_off: bool = False
    number: int = 0
    tell_off: Callable[[], None] = lambda: None
    confirmed: Callable[[str], None] = lambda _by: None
    ended: threading.Event = field(default_factory=threading.Event)


class Switchboard:
    """The switches of all jobs. An instrument is on one pack at a time; a pack has channels on it, or one load."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._on: dict[str, _On] = {}
        self._lock = threading.RLock()
        self._locks: dict[str, threading.RLock] = {}
        self._closed = threading.Event()
        self._threads: list[threading.Thread] = []

    # --- one act at a time

    @contextlib.contextmanager
    def alone(self, job_id: int, *places: Place) -> Iterator[None]:
        """One act at a time on a pack, and on each instrument that it switches. Raises Refused where another does not end."""
        with contextlib.ExitStack() as stack:
            for key in [f"job {job_id}", *sorted(place.key for place in places)]:
                with self._lock:
                    lock = self._locks.setdefault(key, threading.RLock())
                if not lock.acquire(timeout=WAIT_S):
                    raise Refused(
                        "instrument",
                        "switching_elsewhere",
                        "another window is still switching on this pack; look at what it did first",
                    )
                stack.callback(lock.release)
            yield

    # --- on and off

    def free(self, job_id: int, link: Link, drives: switched.Drives) -> None:
        """Raises Refused where the instrument is on already, or something on the pack that bears none beside it."""
        with self._lock:
            held = self._on.get(_key(link))
            if held is not None:
                off = "has not said that it is off" if held.wanted_off else f"is on job {held.switch.job_id:04d}"
                raise Refused(
                    "load" if drives == "load" else "channel",
                    "holds_pack",
                    f"{held.switch.name} {off}; switch that off first",
                )
            other = next(
                (on.switch for on in self._on.values() if on.switch.job_id == job_id and "load" in (drives, on.switch.drives)),
                None,
            )  # fmt: skip
        if other is not None:
            field_ = "load" if drives == other.drives == "load" else "charging"
            raise Refused(field_, "holds_pack", f"{other.name} is on this pack already; switch that off first")

    def on(self, switch: Switch, link: Link, kept: bool) -> None:
        """Note that it goes on, before it is told: whatever happens from here, it is off only when it says so. Raises Refused."""
        with self._lock:
            self.free(switch.job_id, link, switch.drives)
            held = self._on[_key(link)] = _On(switch, kept, self.bench.now())
        try:
            self._note(held, "on")
        except BaseException:
            with self._lock:
                self._on.pop(_key(link), None)
            raise

    def settled(self, link: Link) -> None:
        """It is on, and what gates its pack was looked at again since."""
        with self._lock:
            held = self._on.get(_key(link))
            if held is not None:
                held.settled = True

    def taken_up(self, switch: Switch, link: Link, kept: bool) -> None:
        """It was on when the program came back, and goes on."""
        with self._lock:
            held = self._on[_key(link)] = _On(switch, kept, self.bench.now(), settled=True)
        self._quietly(held, "on")

    def is_off(self, link: Link, by: str = "") -> None:
        """It says that it is off; or somebody saw it."""
        with self._lock:
            held = self._on.pop(_key(link), None)
        if held is not None:
            held.ended.set()
            self._quietly(held, "off", by)

    def want_off(self, switch: Switch, output: Switched, kept: bool, confirmed: Callable[[str], None]) -> None:
        """It did not say that it is off: remembered, rung, and told again until it does. `confirmed` is called then, with the name of who
        saw it where it never says so itself.
        """

        def tell_off() -> None:
            output.off()
            if self._closed.is_set():
                return
            self.is_off(output.link)
            confirmed("")
            self._tell(switch)

        with self._lock:
            held = self._on.setdefault(_key(output.link), _On(switch, kept, self.bench.now()))
            if held.wanted_off:
                return
            held.wanted_off, held.tell_off, held.confirmed = True, tell_off, confirmed
        self._quietly(held, "off_wanted")
        self._tell(switch)
        thread = threading.Thread(target=self._told, args=(held,), name=f"off-{switch.name[:40]}", daemon=True)
        with self._lock:
            self._threads = [*(t for t in self._threads if t.is_alive()), thread]
        thread.start()

    def _told(self, held: _On) -> None:
        while not held.ended.wait(AGAIN_S) and not self._closed.is_set():
            try:
                held.tell_off()
            except LinkError:
                continue
            except Exception:  # whatever fails here, it is told again
                log.exception("%s could not be told off", held.switch.name)

    def again(self, job_id: int, charge_id: int | None = None) -> None:
        """Tell what did not confirm off once more, now."""
        with self._lock:
            held = [
                on
                for on in self._on.values()
                if on.wanted_off and on.switch.job_id == job_id and charge_id in (None, on.switch.charge_id)
            ]
        for on in held:
            with contextlib.suppress(LinkError):
                on.tell_off()

    # --- what is on

    def running(self, job_id: int, drives: switched.Drives | None = None, settled: bool = False) -> bool:
        """Whether anything is on a job's pack, or has not said that it is off; `settled`: not what is only being switched on."""
        with self._lock:
            return any(
                on.switch.job_id == job_id and drives in (None, on.switch.drives) and (on.settled or on.wanted_off or not settled)
                for on in self._on.values()
            )  # fmt: skip

    def not_off(self, job_id: int | None = None, charge_id: int | None = None) -> list[NotOff]:
        """What was told off and has not confirmed it: of all jobs, of one, of one charge."""
        with self._lock:
            held = [on for on in self._on.values() if on.wanted_off]
        return [
            NotOff(
                id=on.number, job_id=on.switch.job_id, group=on.switch.group, charge_id=on.switch.charge_id, name=on.switch.name,
                since=on.since, says=f"{on.switch.name} has not said that it is off. Switch it off by hand, and pull its clips.",
            )
            for on in held
            if job_id in (None, on.switch.job_id) and charge_id in (None, on.switch.charge_id)
        ]  # fmt: skip

    def ringing(self, packs: Callable[[int], str]) -> list[Ringing]:
        """The same, as it rings in every window."""
        return [
            Ringing(
                job_id=switch.job_id, pack_name=packs(switch.job_id), group=switch.group, charge_id=switch.charge_id, kind="off_unconfirmed",
                says=switch.says, at=switch.since,
            )
            for switch in self.not_off()
        ]  # fmt: skip

    def seen_off(self, number: int, by: str) -> bool:
        """Somebody saw that it is off: no longer told nor rung. Whether it was waited for."""
        with self._lock:
            key = next((key for key, on in self._on.items() if on.wanted_off and on.number == number), None)
            held = self._on.pop(key) if key is not None else None
        if held is None:
            return False
        held.ended.set()
        self._quietly(held, "off", by)
        try:
            held.confirmed(by)
        except Exception:  # that somebody saw it stands
            log.exception("that %s is off could not be recorded", held.switch.name)
        self._tell(held.switch)
        return True

    # --- coming and going

    def wake(self, link_at: Callable[[Switch], Link], goes_on: Callable[[Switch], bool], confirmed: Callable[[Switch, str], None]) -> None:  # fmt: skip
        """What the last program left on or wanted off is told off until it confirms, but for what `goes_on`."""
        self._closed.clear()
        for left in switched.standing(self.bench.db.read()):
            switch = left.switch
            try:
                if left.state == "on" and goes_on(switch):
                    continue
            except Exception:  # what cannot be told goes off
                log.exception("whether %s goes on cannot be told", switch.name)
            link = link_at(switch)
            output: Switched = LoadInput(link) if switch.drives == "load" else ScpiOutput(link)
            self.want_off(switch, output, True, lambda by, switch=switch: confirmed(switch, by))  # type: ignore[misc]

    def close(self) -> None:
        """The program ends: what did not confirm stays on record."""
        self._closed.set()
        with self._lock:
            for held in self._on.values():
                held.ended.set()
            self._on.clear()
            threads, self._threads = self._threads, []
        for thread in threads:
            thread.join(timeout=3)

    # --- inside

    def _note(self, held: _On, state: State, by: str = "") -> None:
        if held.kept:
            with self.bench.db.write() as db:
                held.number = switched.note(db, held.switch, state, self.bench.now(), by)
        elif held.number == 0:
            held.number = -id(held) % 2**31

    def _tell(self, switch: Switch) -> None:
        with contextlib.suppress(Exception):
            self.bench.tell(switch.job_id, self.bench.facts(switch.job_id).last_id)

    def _quietly(self, held: _On, state: State, by: str = "") -> None:
        try:
            self._note(held, state, by)
        except Exception:  # a full disk must not end the minding of an output that is still on
            log.exception("what became of %s could not be recorded", held.switch.name)


def _key(link: Link) -> str:
    return link.address.key

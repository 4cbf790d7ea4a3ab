"""One charge that the program drives: read, logged and minded by a thread of its own, switched off when it must be."""

import logging
import math
import threading
import time
from datetime import datetime
from typing import Protocol

import numpy as np

from saldatura.battery.cell.chemistry import WINDOWS
from saldatura.battery.charge.fit import Series
from saldatura.battery.charge.forecast import ChargeRequest
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits import minding
from saldatura.battery.limits.minding import AT_TARGET_V
from saldatura.battery.limits.pace import FLUSH_EVERY_S, LOG_EVERY_S, MOVED_S, MOVED_SHARE, WATCH_EVERY_S
from saldatura.battery.quantities import time_words
from saldatura.instruments.hub.clock_watch import counted_s
from saldatura.instruments.hub.switchboard import Switchboard
from saldatura.instruments.link import LinkError
from saldatura.instruments.output import ScpiOutput
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.looked import asked_of
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import ChargeRun, NewStop
from saldatura.job.facts.charge import FINISHED, ChargeTold
from saldatura.job.facts.clock import LEAST_S
from saldatura.job.minding import charge as charge_watch
from saldatura.job.minding.charge import Alarm, ChargeWatch, Stop, setting_of
from saldatura.ledger.clock import own_seconds
from saldatura.records import charge_log
from saldatura.records.bench import Bench
from saldatura.records.charge_log import Rows
from saldatura.records.switched import Switch
from saldatura.shop.instrument import Live

log = logging.getLogger("saldatura")

POLL_S = 0.4
# A thermometer that told and tells nothing for so many polls guards nothing.
SILENT_POLLS = 2


class Beside(Protocol):
    """What is known of a pack beside the charge."""

    def warmth(self, job_id: int) -> float:
        """°C of a job's pack, nan where nothing tells."""
        ...

    def idle_volts(self, job_id: int) -> dict[int, float]:
        """What groups read that a channel is clipped to and does not charge."""
        ...


class Driven:
    """A driven charge. `beside` tells how warm the pack is, and what groups that nothing charges read; `kept`: its output stays on over
    the program's end, as a stand-in's does not; `doubted`: it was on when the program came back, and its settings are not read yet.
    """

    def __init__(
        self, bench: Bench, job_id: int, run: ChargeRun, output: ScpiOutput, name: str, beside: Beside, board: Switchboard, kept: bool
    ) -> None:  # fmt: skip
        self.bench, self.job_id, self.run, self.output, self.beside = bench, job_id, run, output, beside
        self.board, self.kept, self.doubted = board, kept, False
        self.switch = Switch(
            address=output.link.address, name=name, drives="output", job_id=job_id, charge_id=run.id, group=run.group
        )
        self.live: Live | None = None
        self.watch = ChargeWatch(fit=None, alarms=[])
        self.stopped: Stop | None = None
        self.rang: dict[str, datetime] = {}
        self.off = False
        self.rows: list[tuple[float, float, float, float]] = [
            tuple(row) for row in charge_log.of(bench.db.read(), run.id).tolist()
        ]
        self._kept = len(self.rows)
        self._fitted: charge_watch.Fitted | None = None
        self._flushed_at = self._watched_at = -math.inf
        self._answered_at, self._told_s = counted_s(), -math.inf
        # What passed before this program minded it is the wall's to tell; since then it is counted.
        wall_s = (bench.now() - run.at).total_seconds()
        self._before_s = max(wall_s, self.rows[-1][0] if self.rows else 0.0, 0.0)
        self._since, self._apart = counted_s(), wall_s - counted_s()
        self._cold: int | None = None
        self._done, self._wake = threading.Event(), threading.Event()
        self._lock, self._flushing = threading.Lock(), threading.Lock()
        self._thread = threading.Thread(target=self._go, name=f"charge-{run.id}", daemon=True)

    def start(self) -> None:
        """Begin to mind it."""
        self._thread.start()

    def so_far(self) -> Rows:
        """Everything logged so far: rows of seconds, volts, amps, °C."""
        with self._lock:
            return np.array(self.rows, dtype=np.float64).reshape(-1, 4)

    def stop(self, stop: Stop) -> bool:
        """Switch it off, from any thread; whether it said that it is. If it did not, it is told again until it does."""
        with self._lock:
            was_off, first = self.off, self.stopped is None
            # What it said before is not what it says now: it may have been told to go on between.
            off = False
            try:
                self.output.off()
                off = True
            except LinkError:
                pass
            self.off, self.stopped = off, self.stopped or stop
        if off:
            self.board.is_off(self.output.link)
        else:
            self.board.want_off(self.switch, self.output, self.kept, self._confirmed)
        if first or (off and not was_off):
            self._record(self.stopped if first else Stop(why=self.stopped.why, says="It answers again and is off."))
        self._wake.set()
        return off

    def _confirmed(self, by: str) -> None:
        self.off = True
        if self.stopped is not None:
            says = f"{by} saw that it is off." if by else "It answers again and is off."
            self._record(Stop(why=self.stopped.why, says=says))

    def leave(self) -> None:
        """Stop minding it; its output stays as it is."""
        self._done.set()
        self._wake.set()
        if self._thread.is_alive() and threading.current_thread() is not self._thread:
            self._thread.join(timeout=3)
        self._flush()

    # --- its thread

    def _go(self) -> None:
        while not self._done.is_set():
            began = time.monotonic()
            try:
                self._tick()
            except Exception:  # whatever fails here, an output is not left on for it
                log.exception("minding the charge of job %d failed", self.job_id)
                self.stop(Stop(why="ended", says="The program failed at this charge and switched it off."))
            if self.stopped is not None:
                break
            self._wake.wait(max(POLL_S - (time.monotonic() - began), 0.05))
            self._wake.clear()
        self._flush()

    def _tick(self) -> None:
        try:
            live = self.output.read()
            wrong = self.output.holds(setting_of(self.run)) if self.doubted else ""
        except LinkError as error:
            self.live = None
            if error.state == "free" or counted_s() - self._answered_at > minding.LOST_S:
                self.stop(Stop(why="lost", says=f"{self.run.channel} is not to be relied on ({error.says}): its own limit of {self.run.target_v:.3f} V holds it. Pull the clips."))  # fmt: skip
            return
        if wrong:
            self.stop(Stop(why="ended", says=f"When the program came back {wrong}: switched off."))
            return
        self.doubted = False
        self._answered_at = counted_s()
        self.live = live
        at = self._own_s()
        if live.volts is None or live.amps is None:
            return
        warmth = self.beside.warmth(self.job_id)
        row = (at, live.volts, live.amps, warmth)
        series = Series.of(np.vstack([self.so_far(), row]))
        with self._lock:
            if not self.rows or at - self.rows[-1][0] >= LOG_EVERY_S:
                self.rows.append(row)
        facts, policy = self.bench.facts(self.job_id), self.bench.policy()
        asked, capacity_known, resistance_known = asked_of(facts, self.run)
        stop = (
            self._by_itself(live)
            or self._clock(asked)
            or charge_watch.stop_now(self.run, asked, series, policy)
            or self._silent(warmth)
        )
        if stop is not None:
            self._see(asked, series, capacity_known, resistance_known)
            self.stop(stop)
            return
        now = time.monotonic()
        if now - self._watched_at >= WATCH_EVERY_S:
            self._watched_at = now
            self._see(asked, series, capacity_known, resistance_known)
        if now - self._flushed_at >= FLUSH_EVERY_S:
            self._flushed_at = now
            self._flush()

    def _see(self, asked: ChargeRequest, series: Series, capacity: bool, resistance: bool) -> None:
        before = {alarm.kind for alarm in self.watch.alarms}
        seen = charge_watch.watch(self.run, asked, series, capacity, resistance, self.bench.policy(), self._fitted)
        if len(series) and (self._fitted is None or charge_watch.may_change(self._fitted, series)):
            self._fitted = charge_watch.Fitted(seen.fit, float(series.time_s[-1]), float(series.amps[-1]))
        seen = seen.model_copy(update={"alarms": [*seen.alarms, *self._siblings(float(series.time_s[-1]))]})
        # What rang goes on ringing, with the time at which it first did.
        held = {alarm.kind: alarm for alarm in self.watch.alarms}
        alarms = [a.model_copy(update={"at_s": held[a.kind].at_s}) if a.kind in held else a for a in seen.alarms]
        self.watch = seen.model_copy(update={"alarms": alarms})
        if {alarm.kind for alarm in alarms} - before or self._moved(seen):
            self.bench.tell(self.job_id, self.bench.facts(self.job_id).last_id)

    def _siblings(self, at_s: float) -> list[Alarm]:
        read = self.beside.idle_volts(self.job_id)
        if not read:
            return []
        facts, policy = self.bench.facts(self.job_id), self.bench.policy()
        groups = groups_now(facts, assess_set(facts, "probe", policy), policy)
        rest = {g.group: g.volts for g in groups if g.volts is not None}
        # One that was charged rests down for a while.
        charged = {run.group for run in facts.charges}
        return charge_watch.siblings_moved(rest, read, charged, at_s)

    def _moved(self, seen: ChargeWatch) -> bool:
        """Whether the finish moved by enough to tell every window."""
        if seen.fit is None or not seen.fit.fits:
            return False
        left = seen.fit.duration_s - self.rows[-1][0]
        if abs(seen.fit.duration_s - self._told_s) < max(MOVED_S, MOVED_SHARE * left):
            return False
        self._told_s = seen.fit.duration_s
        return True

    def _by_itself(self, live: Live) -> Stop | None:
        if live.doing == "cut":
            return Stop(why="over_voltage", says="Its own protection opened: the group passed the limit.")  # fmt: skip
        if live.doing != "off":
            return None
        last = self.rows[-1] if self.rows else None
        near = last is not None and last[1] >= self.run.target_v - 2 * AT_TARGET_V
        if near:
            return Stop(why="tapered", says="It ended by itself, at its own end current.")
        return Stop(why="by_hand", says="It was switched off on its own front, or lost its power.")

    def _own_s(self) -> float:
        clock = self.bench.pack_clock(self.job_id)
        if clock is not None and self.run.clock_s is not None:
            return own_seconds(self.run.at, self.run.clock_s, self.bench.now(), clock.clock_s)
        return self._before_s + counted_s() - self._since

    def _clock(self, asked: ChargeRequest) -> Stop | None:
        """A charge that ends by the clock ends by the one that counts or by the wall's, whichever is first, and not by one that jumped."""
        if not self.kept or WINDOWS[asked.chemistry].family == "lithium":
            return None
        wall_s = (self.bench.now() - self.run.at).total_seconds()
        if abs(wall_s - counted_s() - self._apart) > LEAST_S:
            return Stop(why="clock", says="The clock jumped: how long it was charged is not known. Feel the pack, and say how much it still needs.")  # fmt: skip
        if wall_s >= self.run.forecast_s:
            return Stop(why="timed", says=f"{time_words(self.run.forecast_s)} are over.")
        return None

    def _silent(self, warmth: float) -> Stop | None:
        """A thermometer that told how warm the pack is, and tells nothing any more."""
        if not math.isnan(warmth):
            self._cold = 0
        elif self._cold is not None:
            self._cold += 1
            if self._cold >= SILENT_POLLS:
                return Stop(why="no_thermometer", says="The thermometer tells nothing any more: nothing guards the pack against heat. Feel it.")  # fmt: skip
        return None

    def _flush(self) -> None:
        with self._flushing:
            with self._lock:
                fresh = self.rows[self._kept :]
            if fresh:
                with self.bench.db.write() as db:
                    charge_log.add(db, self.run.id, np.array(fresh, dtype=np.float64))
                # Only now: what could not be written is written the next time.
                self._kept += len(fresh)

    def _record(self, stop: Stop) -> None:
        """Keep a stop on record. Never raises: a full disk must not end the minding of an output that is still on."""
        try:
            self._flush()
            self._recorded(stop)
        except (Refused, Impossible):  # it ended meanwhile, or its job was signed
            log.info("the stop of charge %d came after its end", self.run.id)
        except Exception:
            log.exception("the stop of charge %d could not be recorded", self.run.id)

    def _recorded(self, stop: Stop) -> None:
        live, told = self.live, ChargeTold()
        if self.watch.fit is not None:
            asked, _, _ = asked_of(self.bench.facts(self.job_id), self.run)
            ah = charge_watch.capacity_told(self.watch.fit, asked)
            ohm = charge_watch.resistance_told(self.run, Series.of(self.so_far()))
            told = ChargeTold(
                ah=ah and round(ah[0], 3), ah_doubt=round(ah[1], 3) if ah else 0.0,
                ohm=ohm and round(ohm[0], 6), ohm_doubt=round(ohm[1], 6) if ohm else 0.0,
            )  # fmt: skip
        new = NewStop(
            charge=self.run.id, why=stop.why, says=stop.says, off=self.off, told=told,
            volts=live.volts if live else None, amps=live.amps if live else None,
        )  # fmt: skip
        self.bench.add(self.job_id, new)

    def ringing(self) -> list[tuple[Alarm, datetime]]:
        """What rings of it now, and since when."""
        rings = list(self.watch.alarms)
        at = self.rows[-1][0] if self.rows else 0.0
        if self.stopped is not None and self.stopped.why not in {*FINISHED, "by_hand"}:
            rings.append(Alarm(kind="stopped", at_s=at, says=self.stopped.says))
        return [(alarm, self.rang.setdefault(alarm.kind, self.bench.now())) for alarm in rings]

"""One charge that the program drives: read, logged and minded by a thread of its own, switched off when it must be."""

import logging
import math
import threading
import time
from datetime import datetime
from typing import Protocol

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.fit import Series
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.minding import AT_TARGET_V
from saldatura.battery.limits.pace import FLUSH_EVERY_S, LOG_EVERY_S, MOVED_S, MOVED_SHARE, WATCH_EVERY_S
from saldatura.battery.quantities import time_words
from saldatura.instruments.hub.clock_watch import counted_s
from saldatura.instruments.hub.minded import Minded
from saldatura.instruments.hub.switchboard import Switchboard
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


class Beside(Protocol):
    """What is known of a pack beside the charge."""

    def warmth(self, job_id: int) -> float:
        """°C of a job's pack, nan where nothing tells."""
        ...

    def idle_volts(self, job_id: int) -> dict[int, float]:
        """What groups read that a channel is clipped to and does not charge."""
        ...


class Driven(Minded[ScpiOutput, Stop]):
    """A driven charge. `beside` tells how warm the pack is, and what groups that nothing charges read; `kept`: its output stays on over
    the program's end, as a stand-in's does not; `doubted`: it was on when the program came back, and its settings are not read yet.
    """

    def __init__(
        self, bench: Bench, job_id: int, run: ChargeRun, output: ScpiOutput, name: str, beside: Beside, board: Switchboard, kept: bool
    ) -> None:  # fmt: skip
        switch = Switch(
            address=output.link.address, name=name, drives="output", job_id=job_id, charge_id=run.id, group=run.group
        )
        super().__init__(output, switch, board, kept, f"charge-{run.id}")
        self.bench, self.job_id, self.run, self.beside, self.doubted = bench, job_id, run, beside, False
        self.live: Live | None = None
        self.watch = ChargeWatch(fit=None, alarms=[])
        self.rang: dict[str, datetime] = {}
        self.rows: list[tuple[float, float, float, float]] = [
            tuple(row) for row in charge_log.logged_rows(bench.db.read(), run.id).tolist()
        ]
        self._kept = len(self.rows)
        self._fitted: charge_watch.Fitted | None = None
        self._flushed_at = self._watched_at = -math.inf
        self._told_s = -math.inf
        # What passed before this program minded it is the wall's to tell; since then it is counted.
        wall_s = (bench.now() - run.at).total_seconds()
        self._before_s = max(wall_s, self.rows[-1][0] if self.rows else 0.0, 0.0)
        self._since, self._apart = counted_s(), wall_s - counted_s()
        self._flushing = threading.Lock()

    def so_far(self) -> Rows:
        """Everything logged so far: rows of seconds, volts, amps, °C."""
        with self._lock:
            return np.array(self.rows, dtype=np.float64).reshape(-1, 4)

    def leave(self) -> None:
        """Stop minding it; its output stays as it is."""
        super().leave()
        self._flush()

    def lost(self, says: str) -> Stop:
        """Its own limit holds it."""
        return Stop(why="lost", says=f"{self.run.channel} is not to be relied on ({says}): its own limit of {self.run.target_v:.3f} V holds it. Pull the clips.")  # fmt: skip

    def failed(self) -> Stop:
        """An output is not left on for a failure of ours."""
        return Stop(why="ended", says="The program failed at this charge and switched it off.")

    def silent(self) -> None:
        """What it showed is not what is there now."""
        self.live = None

    def look(self, live: Live) -> Stop | None:
        """Log what it shows, and judge it. Raises LinkError."""
        wrong = self.device.holds(setting_of(self.run)) if self.doubted else ""
        if wrong:
            return Stop(why="ended", says=f"When the program came back {wrong}: switched off.")
        self.doubted = False
        self.answered()
        self.live = live
        at = self._own_s()
        if live.volts is None or live.amps is None:
            return None
        warmth = self.beside.warmth(self.job_id)
        row = (at, live.volts, live.amps, warmth)
        series = Series.from_rows(np.vstack([self.so_far(), row]))
        with self._lock:
            if not self.rows or at - self.rows[-1][0] >= LOG_EVERY_S:
                self.rows.append(row)
        facts, policy = self.bench.facts(self.job_id), self.bench.policy()
        asked, capacity_known, resistance_known = asked_of(facts, self.run)
        stop = self._by_itself(live) or self._clock(asked) or charge_watch.stop_now(self.run, asked, series, policy)
        # Told of every look: it counts how long the thermometer has been silent.
        unguarded = self.unguarded(warmth)
        if stop is None and unguarded:
            stop = Stop(why="no_thermometer", says="The thermometer tells nothing any more: nothing guards the pack against heat. Feel it.")  # fmt: skip
        now = time.monotonic()
        if stop is not None or now - self._watched_at >= WATCH_EVERY_S:
            self._watched_at = now
            self._see(asked, series, capacity_known, resistance_known)
        if stop is None and now - self._flushed_at >= FLUSH_EVERY_S:
            self._flushed_at = now
            self._flush()
        return stop

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

    def _flush(self) -> None:
        with self._flushing:
            with self._lock:
                fresh = self.rows[self._kept :]
            if fresh:
                with self.bench.db.write() as db:
                    charge_log.add(db, self.run.id, np.array(fresh, dtype=np.float64))
                # Only now: what could not be written is written the next time.
                self._kept += len(fresh)

    def keep(self, first: bool, by: str) -> None:
        """Keep a stop on record, or that it is known to be off since. Never raises."""
        assert self.stopped is not None
        says = self.stopped.says if first else f"{by} saw that it is off." if by else "It answers again and is off."
        try:
            self._flush()
            self._recorded(Stop(why=self.stopped.why, says=says))
        except (Refused, Impossible):  # it ended meanwhile, or its job was signed
            log.info("the stop of charge %d came after its end", self.run.id)
        except Exception:
            log.exception("the stop of charge %d could not be recorded", self.run.id)

    @property
    def ah(self) -> float:
        """What went in so far, Ah, counted over everything that was measured."""
        return max(charge_watch.counted_ah(Series.from_rows(self.so_far())), 0.0)

    def _recorded(self, stop: Stop) -> None:
        live, measured = self.live, ChargeTold()
        if self.watch.fit is not None:
            asked, _, _ = asked_of(self.bench.facts(self.job_id), self.run)
            ah = charge_watch.capacity_told(self.watch.fit, asked)
            ohm = charge_watch.resistance_told(self.run, Series.from_rows(self.so_far()))
            measured = ChargeTold(
                ah=ah and round(ah[0], 3), ah_doubt=round(ah[1], 3) if ah else 0.0,
                ohm=ohm and round(ohm[0], 6), ohm_doubt=round(ohm[1], 6) if ohm else 0.0,
            )  # fmt: skip
        new = NewStop(
            charge=self.run.id, why=stop.why, says=stop.says, off=self.off, measured=measured, ah=round(self.ah, 4),
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

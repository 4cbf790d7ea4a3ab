"""The day over all open jobs: each job's tasks kept for as long as nothing touches them, the plan made anew where something did."""

import logging
import threading
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from saldatura.battery.day.usual import Span, StepKind, learned, usual_hands
from saldatura.battery.quantities import Value
from saldatura.job.assessment.day.plan import Planned, planned, steps_of
from saldatura.job.assessment.day.tasks import Known, job_day
from saldatura.job.assessment.day.types import JobDay
from saldatura.job.assessment.day.unsafe import gap_of
from saldatura.job.assessment.waiting import Waiting
from saldatura.job.facts import JobFacts
from saldatura.records import jobs, took
from saldatura.records.calendar_source import CalendarSource
from saldatura.shop.hours import ShopHours, Stretch, attended_hours

if TYPE_CHECKING:
    from saldatura.records.bench import Bench

log = logging.getLogger("saldatura")

# An answer is given after so long, s; jobs not looked at by then are counted, and known at the next asking.
ANSWER_S = 0.4
# So many days are planned ahead.
DAYS = 21
# What was learned is of this long.
LEARNED = timedelta(days=730)
# The plan is as good for so long without a fact, s.
STANDS_S = 60
# The whole of the search takes under three seconds; this share of it is spent on a plan that somebody waits for.
SHARE = 0.15


class WhoIsHere(Value):
    """Who is here: until when, or from when again; `away`: somebody said so, until then; `here`: somebody is, outside the hours."""

    here_until: datetime | None
    back: datetime | None
    away: datetime | None
    here: datetime | None
    people: int


class DayNow(Value):
    """The day as planned. `steps`: what each open job wants next; `there`: when somebody is here; `pending`: jobs not looked at yet; `troubles`: what
    could not be counted in.
    """

    at: datetime
    plan: Planned
    steps: dict[int, str]
    attended: list[Stretch]
    presence: WhoIsHere
    hours: ShopHours
    pending: int
    troubles: list[str]


class DayBench:
    """Answers on the day."""

    def __init__(self, bench: "Bench") -> None:
        self.bench = bench
        self.calendar = CalendarSource()
        self._lock = threading.RLock()
        self._jobs: dict[int, tuple[str, JobDay]] = {}
        self._learned: tuple[tuple[int, int], dict[tuple[str, bool], dict[StepKind, tuple[float, int]]]] | None = None
        self._last: tuple[tuple[object, ...], datetime, DayNow] | None = None
        self._order: list[str] = []

    def now(self) -> DayNow:
        """The day as it is planned now. Asked again without a fact between, it is the same for a minute."""
        with self._lock:
            now = self.bench.now()
            days, pending, troubles = self.days(now, ANSWER_S)
            shop = self.bench.shop()
            mark = (shop.last_id, tuple((d.job_id, self._jobs[d.job_id][0]) for d in days), pending)
            held = self._last
            if held is not None and held[0] == mark and timedelta(0) <= now - held[1] < timedelta(seconds=STANDS_S):
                return held[2]
            planned = self._planned(days, now, pending, troubles)
            self._last = (mark, now, planned)
            return planned

    def _planned(self, days: list[JobDay], now: datetime, pending: int, troubles: list[str]) -> DayNow:
        shop, windows = self.bench.shop(), self.windows(now)
        testers = sum(i.kind == "capacity_tester" for i in shop.instruments)
        hours = shop.hours
        plan, self._order = planned(
            days, windows, hours.people, shop.channels, testers, hours.promise_days, now, self._order, SHARE
        )
        if self.calendar.trouble:
            troubles = [*troubles, self.calendar.trouble]
        word = shop.presence[-1] if shop.presence and shop.presence[-1].until > now else None
        leaves, comes = gap_of(windows, now)
        presence = WhoIsHere(
            here_until=leaves if leaves > now else None,
            back=comes,
            away=word.until if word is not None and not word.here else None,
            here=word.until if word is not None and word.here else None,
            people=hours.people,
        )
        return DayNow(
            at=now, plan=plan, steps=dict(steps_of(days)), presence=presence, hours=hours, pending=pending, troubles=troubles,
            attended=[Stretch(from_at=max(a, now), to_at=b) for a, b in windows if a < now + timedelta(days=DAYS)],
        )  # fmt: skip

    def windows(self, now: datetime, days: int = DAYS) -> list[tuple[datetime, datetime]]:
        """When somebody is here from now on."""
        shop = self.bench.shop()
        source = shop.calendar
        busy = [] if source is None else self.calendar.busy(source.where, now) if source.where else source.busy
        return attended_hours(shop.hours, shop.presence, busy, now, days)

    def days(self, now: datetime, within_s: float | None = None) -> tuple[list[JobDay], int, list[str]]:
        """What each open job wants, how many could not be looked at within that time, and what could not be told."""
        while True:
            # In slices, so that whoever wants the day now does not wait for all of it.
            with self._lock:
                found = self._looked_through(now, within_s if within_s is not None else ANSWER_S)
            if within_s is not None or not found[1]:
                return found

    def _looked_through(self, now: datetime, within_s: float) -> tuple[list[JobDay], int, list[str]]:
        until, pending = time.monotonic() + within_s, 0
        found: list[JobDay] = []
        troubles: list[str] = []
        waits: dict[int, list[Waiting]] = {}
        for w in self.bench.waiting().waiting:
            waits.setdefault(w.job_id, []).append(w)
        open_ones = jobs.open_ones(self.bench.db.read(), most=400)
        for job_id in open_ones:
            try:
                own = waits.get(job_id, [])
                # What runs moves with the time; all else of a job stands still between facts.
                minute = int(now.timestamp() // STANDS_S) if own else 0
                mark = f"{self.bench.mark(job_id)} {minute} {len(own)}"
                held = self._jobs.get(job_id)
                if held is None or held[0] != mark:
                    if time.monotonic() > until:
                        pending += 1
                        continue
                    held = self._jobs[job_id] = (mark, self._day(job_id, own, now))
                found.append(held[1])
            except Exception as error:  # one job's trouble is not the day's
                log.exception("the day of job %d cannot be told", job_id)
                troubles.append(f"Job {job_id:04d} is not in the plan: {error or type(error).__name__}.")
        for gone in set(self._jobs) - set(open_ones):
            del self._jobs[gone]
        return found, pending, troubles

    def _day(self, job_id: int, waits: list[Waiting], now: datetime) -> JobDay:
        bench = self.bench
        view, facts = bench.view(job_id), bench.facts(job_id)
        step = view.assessment.next
        known = Known(
            now=now, clock=bench.pack_clock(job_id), policy=bench.policy(), channels=bench.shop().channels, minutes=self.minutes(facts),
            waiting=waits, next=step, groups=view.assessment.groups,
            proof=bench.proof_plan(job_id) if step is not None and step.code == "prove" else None,
            missing=self._missing(facts) if step is not None and step.code in ("join", "work", "list") else 0,
        )  # fmt: skip
        return job_day(facts, known, view.assessment.standing)

    def _missing(self, facts: JobFacts) -> int:
        try:
            return self.bench.order(facts.id).missing if facts.accepted is not None else 0
        except Exception:  # an order that cannot be made is Plan's trouble
            log.exception("the order of job %d cannot be told", facts.id)
            return 0

    def minutes(self, facts: JobFacts | None) -> Callable[[StepKind], Span]:
        """Minutes of hands by step: the table's, with what the shop's own jobs took, and nearer still those of the job's pattern; None: of any pack."""
        learned_of = self._own()
        simulated = facts.simulated if facts is not None else ("", False) not in learned_of
        shop = learned_of.get(("", simulated), {})
        taken = facts.pattern if facts is not None else None
        pattern = learned_of.get((taken.uid, simulated), {}) if taken is not None else {}

        def of_step(step: StepKind) -> Span:
            span = usual_hands(step)
            for own in (shop, pattern):
                if step in own:
                    span = learned(span, *own[step])
            return span

        return of_step

    def _own(self) -> dict[tuple[str, bool], dict[StepKind, tuple[float, int]]]:
        """Mean minutes and jobs by pattern (empty: all) and whether the packs were virtual ones."""
        db = self.bench.db.read()
        mark = took.mark(db)
        if self._learned is None or self._learned[0] != mark:
            sums: dict[tuple[str, bool], dict[StepKind, tuple[float, int]]] = {}
            for one in took.since(db, self.bench.now() - LEARNED):
                for key in {("", one.simulated), (one.pattern, one.simulated)}:
                    of_key = sums.setdefault(key, {})
                    for step, minutes in one.hands.items():
                        if minutes > 0:
                            total, n = of_key.get(step, (0.0, 0))
                            of_key[step] = (total + minutes, n + 1)
            means = {key: {s: (t / n, n) for s, (t, n) in found.items()} for key, found in sums.items()}
            self._learned = (mark, means)
        return self._learned[1]

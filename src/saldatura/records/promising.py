"""When jobs may be promised, kept for as long as nothing changes the queue; and what the record of signed jobs says of the shop."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from saldatura.battery.quantities import EARLIEST
from saldatura.job.assessment.day.promise import Promise, promise_of
from saldatura.job.assessment.day.tasks import about, pack_to_come
from saldatura.job.assessment.day.types import Hold, JobDay
from saldatura.job.assessment.words import day as day_words
from saldatura.job.returns import shop_returns
from saldatura.job.shop_record.faster import Faster, faster_of
from saldatura.job.shop_record.numbers import ShopNumbers, numbers_of
from saldatura.records import took
from saldatura.records.day_bench import LEARNED
from saldatura.shop.hours import attended_hours

if TYPE_CHECKING:
    from saldatura.battery.plan.types import Repair
    from saldatura.records.bench import Bench

# A promise is looked for so far ahead, days.
AHEAD_DAYS = 90
# Packs that came back are counted over so long.
BACK = timedelta(days=180)
# How long packs waited for answers and parts is taken from the last so many.
MOST_HELD = 60
# Where nothing went out yet, nine of ten repairs hold.
STAYS = 0.9
# The number that stands for a pack at the counter.
TO_COME = 0
MONTH = timedelta(days=30.44)
# What is bought for an option, and has to come first.
BOUGHT = ("cell", "board", "board_part", "donor")


class Promising:
    """Promises, and what became of them."""

    def __init__(self, bench: "Bench") -> None:
        self.bench = bench
        self._held: dict[tuple[int, str], tuple[object, Promise]] = {}
        self._waited: tuple[tuple[int, int], list[tuple[bool, float]]] | None = None

    def promise(self, job_id: int, option: "Repair | None" = None) -> Promise:
        """When a job may be promised (TO_COME: a pack that is taken in now), with the option taken, or with another of its plan. Raises NoSuchJob."""
        bench, now = self.bench, self.bench.now()
        days, _, _ = bench.day.days(now)
        if job_id == TO_COME:
            days = [*days, pack_to_come(bench.day.minutes(None), now)]
        else:
            bench.facts(job_id)
        # The queue moves slowly: the same question within ten minutes has the same answer.
        mark = (
            bench.shop().last_id,
            tuple((d.job_id, bench.facts(d.job_id).last_id) for d in days if d.job_id != TO_COME),
            int(now.timestamp() // 600),
        )
        key = (job_id, option.option if option is not None else "")
        held = self._held.get(key)
        if held is not None and held[0] == mark:
            return held[1]
        day = next((d for d in days if d.job_id == job_id), None)
        asked = next((h.since for h in day.holds if h.kind == "customer"), None) if day is not None else None
        found = self._promise(days, job_id, option, now).model_copy(
            update={"promised": day.ready if day is not None else None, "asked": asked}
        )
        if len(self._held) > 200:
            self._held.clear()
        self._held[key] = (mark, found)
        return found

    def _promise(self, days: list[JobDay], job_id: int, option: "Repair | None", now: datetime) -> Promise:
        bench, shop = self.bench, self.bench.shop()
        if option is not None:
            days = [_with(day, option, now) if day.job_id == job_id else day for day in days]
        if not any(d.job_id == job_id for d in days):
            return Promise(job_id=job_id, ready=None, chance=None, early=None, late=None, says=day_words.CANNOT_BE_TOLD, message="", because=[], plays=0)  # fmt: skip
        waited = self._held_hours(now)
        # What was only simulated teaches nothing of real packs, nor they of it; of a pack to come a shop's real ones, where there are any.
        real = next((not d.simulated for d in days if d.job_id == job_id and job_id != TO_COME), any(not virtual for virtual, _ in waited))  # fmt: skip
        went = [o for o in bench.outings() if o.simulated != real]
        out = [o for o in went if now - o.went < BACK]
        back = [o for o in went if o.back is not None and now - o.back < BACK]
        rates = shop_returns(out, now)
        stays = 1 - rates.soon / rates.tried if rates.tried else STAYS
        singles = sum(c.kind == "single" for c in shop.channels)
        testers = sum(i.kind == "capacity_tester" for i in shop.instruments)
        hours = shop.hours
        held = [lasted for virtual, lasted in waited if virtual != real][-MOST_HELD:]
        return promise_of(
            days, job_id, bench.day.windows(now, AHEAD_DAYS), hours.people, {"single": max(singles, 1), "tester": max(testers, 1)},
            hours.promise_days, len(back) / BACK.days, min(stays, 0.99), now, shop.card.name, lambda at: at.astimezone(), held,
        )  # fmt: skip

    def _held_hours(self, now: datetime) -> list[tuple[bool, float]]:
        """How long each signed job waited for answers and parts, and whether it was a virtual one; read once until another is signed."""
        db = self.bench.db.read()
        mark = took.mark(db)
        if self._waited is None or self._waited[0] != mark:
            self._waited = (mark, [(t.simulated, t.held_h) for t in took.since(db, now - LEARNED)])
        return self._waited[1]

    def numbers(self, months: float | None = None) -> ShopNumbers:
        """The shop's numbers over the jobs signed in the last months; over all where none are given."""
        bench = self.bench
        jobs = took.since(bench.db.read(), EARLIEST if months is None else bench.now() - months * MONTH)
        labour = bench.shop().prices.labour_h
        return numbers_of(jobs, bench.outings(), labour, bench.now(), lambda at: f"{at.astimezone():%Y-%m}")

    def faster(self, months: float, late_h_costs: float | None, prices: Mapping[str, float]) -> Faster:
        """The record of the last months played again with one more of each."""
        bench, now = self.bench, self.bench.now()
        begins = now - months * MONTH
        jobs = took.since(bench.db.read(), begins)
        hours = bench.shop().hours
        first = min((max(t.opened_at, begins - BACK) for t in jobs), default=begins)
        # As the hours are now; beyond the last signature what was left is worked off.
        windows = attended_hours(hours, [], [], first, round((now - first).days) + 365)
        costs = late_h_costs if late_h_costs is not None else bench.shop().prices.labour_h
        return faster_of(jobs, windows, first, hours.people, hours.promise_days, costs, prices)


def _with(day: JobDay, option: "Repair", now: datetime) -> JobDay:
    """A job's day as if that option were taken today: what is bought comes first, and the work takes what the plan says."""
    tasks = [
        t.model_copy(update={"hands": about(option.bench_min)}) if t.step == "repair" and option.bench_min > 0 else t
        for t in day.tasks
    ]
    holds: list[Hold] = [h for h in day.holds if h.kind not in ("customer", "parts")]
    bought = any(item.code in BOUGHT for item in option.order) and option.cells_from is None
    if bought:
        holds.append(Hold(kind="parts", says="", frees="", stage="plan", since=now))
    return day.model_copy(update={"tasks": tasks, "holds": holds, "chance": option.chance, "answered": True})

"""What is asked of the jobs and the shop of one data file: all of it computed from the facts, none of it recorded."""

import logging
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError

from saldatura import __version__
from saldatura.battery.errors import Impossible
from saldatura.battery.judge import Judgement
from saldatura.battery.judge.tables import cause_words
from saldatura.battery.level.need import LevelNeed
from saldatura.battery.limits.policy import Policy
from saldatura.battery.meter import Meter
from saldatura.battery.prove.run_types import RunTime
from saldatura.battery.quantities import groups_words
from saldatura.battery.string.compare_types import Comparison
from saldatura.formats import job_file, shop_files
from saldatura.job.assessment import (
    JobPlan,
    Judged,
    LevelQuestion,
    PackClock,
    WaitingList,
    before_repair,
    compare_sets,
    judged,
    judged_now,
    judged_then,
    level_of,
    plan_of,
    span_point,
    waiting_of,
)
from saldatura.job.assessment.frozen import handed_then, plan_then, policy_then
from saldatura.job.assessment.handing import Earlier, Handed, fitted_of, handed_of
from saldatura.job.assessment.known_of_model import cell_size_of
from saldatura.job.assessment.minding import ringing_of
from saldatura.job.assessment.ordering import Order, order_of
from saldatura.job.assessment.proving import ProofPlan, proof_plan_now, proof_plan_then, run_forecast
from saldatura.job.assessment.story import done_of
from saldatura.job.assessment.waiting import refitted
from saldatura.job.facts import JobFacts, NewNeed, Purpose
from saldatura.job.facts.clock import said_of
from saldatura.job.gates import common as gates
from saldatura.job.minding.charge import ChargeWatch
from saldatura.job.returns import Outing, Returns, counted, minutes_taken, returns_of
from saldatura.job.run import RunPoint
from saldatura.records import cells, clock, facts, jobs, known, patterns
from saldatura.records.cell_bench import CellBench
from saldatura.records.database import Database
from saldatura.records.pattern_bench import PatternBench
from saldatura.shop.cells.drawer import Drawer
from saldatura.shop.clock import ClockMovedFact
from saldatura.shop.facts import ShopFacts
from saldatura.shop.reference import ReferencePart

log = logging.getLogger("saldatura")


# A pack that comes back more often shows its last so many jobs.


class Answers:
    """Every answer on the jobs and the shop of one data file."""

    def __init__(self, db: Database, now: Callable[[], datetime] = clock.now) -> None:
        self.db = db
        self.now = now
        self.pack_clock: Callable[[int], PackClock | None] = lambda _job_id: None
        self.fitted: Callable[[], Mapping[int, ChargeWatch]] = dict
        self.changed: list[Callable[[int | None, int, str], None]] = []
        self._went: tuple[int, list[Outing]] | None = None
        self.cells = CellBench(
            db, lambda: self.now(), self.policy, lambda: self.tell(None, self.shop().last_id, "drawer")
        )
        self.patterns = PatternBench(db, lambda: self.now(), lambda: self.tell(None, self.shop().last_id, "pattern"))

    def mark(self, job_id: int) -> str:
        """What changes with everything a job's view shows: its facts, the shop's, and the minute while time counts for it.

        Raises NoSuchJob.
        """
        facts, pack_clock = self.facts(job_id), self.pack_clock(job_id)
        timed = facts.sign_off is None and (facts.charging is not None or facts.last_set("prove") is not None)
        minute = int(self.now().timestamp() // 60) if timed and pack_clock is None else None
        own = round(pack_clock.clock_s, 0) if timed and pack_clock is not None else None
        speed = (pack_clock.speed, pack_clock.paused) if pack_clock is not None else None
        return f"{__version__} {facts.uid} {facts.last_id} {self.shop().last_id} {minute} {own} {speed}"

    def facts(self, job_id: int) -> JobFacts:
        """A job's facts alone. Raises NoSuchJob."""
        return self.db.facts.job(self.db.read(), job_id)

    def shop(self) -> ShopFacts:
        """The facts of the shop."""
        return self.db.facts.shop(self.db.read())

    def references(self) -> list[ReferencePart]:
        """The shop's reference parts, each with its last proof, the swaps since, and whether it is to be proved again."""
        return self.shop().references_now(jobs.swaps(self.db.read()), self.now())

    def policy(self) -> Policy:
        """The policy that holds."""
        return self.shop().policy

    def meter(self) -> Meter:
        """The meter that new sets of readings are taken with."""
        return self.shop().meter

    def judgement(self, job_id: int) -> Judged:
        """The job judged by all its evidence, with what the shop confirmed on others; a signed one as it was signed.

        Raises NoSuchJob, Impossible.
        """
        return self._judged(self.facts(job_id))

    def _judged(self, facts: JobFacts) -> Judged:
        then = judged_then(facts)
        return then or judged_now(
            facts,
            jobs.confirmed(self.db.read(), facts.id),
            self.policy(),
            self.shop().distrusted(facts.tries),
            self.patterns.causes(facts),
        )

    def judged_before(self, job_id: int) -> Judgement:
        """What the job was judged to have before anything was done to it: what a repair is to be held against. Raises NoSuchJob, Impossible."""
        before = before_repair(self.facts(job_id))
        seen = self.patterns.causes(before)
        return judged(before, jobs.confirmed(self.db.read(), job_id), self.policy(), of_model=seen).judgement

    def plan(self, job_id: int, need: NewNeed | None = None) -> JobPlan:
        """The job's repairs side by side, with need and prices as told, or as asked with here. Raises NoSuchJob, Impossible."""
        facts = self.facts(job_id)
        then = plan_then(facts) if need is None else None
        return then or self._plan(facts, need)

    def _plan(self, facts: JobFacts, need: NewNeed | None = None) -> JobPlan:
        job_id, db = facts.id, self.db.read()
        from_job, before = None, None
        if need is None and facts.need is None:
            from_job, before = jobs.told_of(db, facts.intake.pack_name, job_id) or (None, None)
        said = need or facts.need or (NewNeed.model_validate(before) if before is not None else NewNeed())
        try:
            weighed: Judged | None = self._judged(facts)
        except Impossible:  # evidence that contradicts itself plans nothing, and keeps nobody from the prices
            weighed = None
        if not said.cell_size:
            said = said.model_copy(update={"cell_size": cell_size_of(facts)})
        drawer = self.cells.drawer()
        # What was only simulated teaches nothing of real packs, nor they of it.
        went = [out for out in self.outings() if out.job_id != job_id and out.simulated == facts.simulated]
        return plan_of(
            facts, weighed, said, self.shop().prices, drawer, self.cells.grades(drawer), {**minutes_taken(went), **self.patterns.minutes(facts)}, counted(went, self.now()),
            self.policy(), self.now(), from_job,
        )  # fmt: skip

    def order(self, job_id: int) -> Order:
        """What the option taken of a job wants bought. Raises NoSuchJob, Impossible."""
        drawer = self.cells.drawer()
        return order_of(self.facts(job_id), self.plan(job_id), drawer, self.cells.grades(drawer), self.policy())

    def returns(self) -> Returns:
        """What came back of what was handed over, by kind of repair."""
        return returns_of(self.outings(), self.now())

    def proof_plan(self, job_id: int) -> ProofPlan:
        """What the job is to be proved by, a signed one as it was signed. Raises NoSuchJob."""
        facts, policy = self.facts(job_id), self.policy()
        then = proof_plan_then(facts)
        return then or proof_plan_now(
            facts, self.now(), self.pack_clock(job_id), policy, self.shop().distrusted(facts.tries)
        )

    def proof_run(self, job_id: int, amps: float) -> RunTime | None:
        """How a load run of the charged pack at so many amps is forecast; None while its groups are not read. Raises NoSuchJob."""
        return run_forecast(self.facts(job_id), amps, self.policy())

    def handed(self, job_id: int) -> tuple[JobFacts, Handed]:
        """What the customer and the collection are told of a job. Raises NoSuchJob."""
        facts = self.facts(job_id)
        return facts, handed_then(facts) or self._handed(facts)

    def _papers(self, signed: JobFacts) -> dict[str, Any]:
        """What the papers of a job are made from, frozen as it is signed."""
        found: dict[str, Any] = {"handed": self._handed(signed).model_dump(mode="json")}
        # A pack that no plan can be made of, as one out of scope, is signed without.
        with suppress(Impossible, ValidationError):
            found["plan"] = self._plan(signed).model_dump(mode="json")
        return found

    def _handed(self, facts: JobFacts) -> Handed:
        signed, policy = facts.sign_off, policy_then(facts) or self.policy()
        at = signed.at if signed is not None else self.now()
        try:
            ruling = self._judged(facts).ruling
        except Impossible:
            ruling = None
        cause = None
        if ruling is not None:
            where = f", {groups_words(ruling.groups).lower()}" if ruling.groups else ""
            cause = f"{cause_words()[ruling.cause]}{where}".capitalize()
        plan = proof_plan_then(facts) or proof_plan_now(facts, self.now(), self.pack_clock(facts.id), policy)
        return handed_of(facts, plan, done_of(facts, policy), self._fitted(facts), cause, at, policy)

    def fitted_in(self, facts: JobFacts) -> list[str]:
        """What was put into a pack, and where, with the drawer's word on each cell; of a signed job as it was signed."""
        then = handed_then(facts)
        return then.fitted if then is not None else self._fitted(facts)

    def _fitted(self, facts: JobFacts) -> list[str]:
        # Another shop's cell of a name is another cell.
        seats = [seat for seat in facts.structure.seats if seat.changed > facts.theirs]
        named = {cell.cell for seat in seats for cell in seat.fitted or () if cell.cell}
        drawer = self.cells.drawer() if named else Drawer()
        here = {name: cell.took for name in named if (cell := drawer.cell_named(name)) is not None}
        return fitted_of(facts, here)

    def earlier(self, job_id: int) -> list[Earlier]:
        """The same pack's earlier jobs, by its serial, newest first. Raises NoSuchJob."""
        serial = self.facts(job_id).intake.serial
        return known.earlier(self, serial, job_id)

    def level(self, job_id: int, question: LevelQuestion) -> LevelNeed:
        """What the job's groups need to reach the target. Raises NoSuchJob, Refused, Impossible."""
        facts = self.facts(job_id)
        gates.work(facts)
        return level_of(facts, question, self.policy())

    def span_point(self, job_id: int, purpose: Purpose, from_tap: int, to_tap: int) -> RunPoint:
        """Two taps as a point of the run. Raises Impossible, NoSuchJob."""
        return span_point(self.facts(job_id), purpose, from_tap, to_tap, self.policy())

    def compare_sets(self, job_id: int, then_id: int, now_id: int) -> Comparison:
        """Two sets of the job side by side. Raises Impossible, NoSuchJob."""
        return compare_sets(self.facts(job_id), then_id, now_id, self.policy())

    def photo(self, job_id: int, photo_id: int) -> Path:
        """The file of a photo. Raises Impossible, NoSuchJob."""
        kept = next((p for p in self.facts(job_id).photos if p.id == photo_id), None)
        if kept is None or not (path := self.db.photos.path(kept.sha256)).exists():
            raise Impossible("photo", "no_such_photo", f"this job has no photo {photo_id}")
        return path

    def pictures(self, job_id: int, most: int = 2) -> list[bytes]:
        """The last photos that go with work on a job, as JPEG. Raises NoSuchJob."""
        facts = self.facts(job_id)
        shown = {work.photo for work in facts.works if work.photo is not None}
        found = [self.db.photos.read(p.sha256) for p in facts.photos if p.id in shown]
        return [jpeg for jpeg in found if jpeg is not None][-most:]

    def export(self, job_id: int, shared: bool = False) -> job_file.JobFile:
        """The whole job as a document; `shared`: without what tells whose it is. Raises NoSuchJob."""
        facts, now = self.facts(job_id), self.now()
        return job_file.shared(facts, now) if shared else job_file.write(facts, now, self.db.photos.read)

    def exported(self, job_id: int) -> Iterator[bytes]:
        """The whole job as a document, a piece at a time. Raises NoSuchJob."""
        return job_file.streamed(self.facts(job_id), self.now(), self.db.photos.read)

    def write_whole(self, out: IO[bytes]) -> None:
        """Everything recorded in the shop, as an archive of open files."""
        db, drawer = self.db.read(), self.cells.drawer()
        numbers = [row["id"] for row in db.execute("SELECT id FROM job ORDER BY id")]
        shop_files.write(
            out,
            ((number, self._or_none(db, number)) for number in numbers),
            self.shop(),
            drawer.cells.values(),
            cells.lines(db),
            patterns.lines(db),
            self.db.photos.read,
        )

    @staticmethod
    def _or_none(db: sqlite3.Connection, number: int) -> JobFacts | None:
        try:
            return facts.load(db, number)
        except Exception:  # one job's trouble is not the shop's
            log.exception("job %d cannot be read", number)
            return None

    def waiting(self) -> WaitingList:
        """Everything that charges or rests, over all jobs, soonest first; a job of which it cannot be told is named."""
        now, policy = self.now(), self.policy()
        found, unread, rings = [], [], []
        db, fits = self.db.read(), self.fitted()
        for job_id, last_id in jobs.waiting(db, now):
            try:
                facts, own = self.db.facts.job_at(db, job_id, last_id), self.pack_clock(job_id)
                found += [refitted(facts, w, fits, now, own, policy) for w in waiting_of(facts, now, own, policy)]
                rings += ringing_of(facts, policy)
            except Exception as error:  # one job's trouble is not the bench's
                unread.append(f"Job {job_id:04d}: what it waits for cannot be told ({error or type(error).__name__}).")
        said = said_of(self.shop().of_kind(ClockMovedFact), now)
        return WaitingList(waiting=sorted(found, key=lambda w: w.done), ringing=rings, unread=unread, clock=said)

    def channels_elsewhere(self, but: int) -> dict[str, int]:
        """Channels that are on a group of another job than `but`, and on which."""
        return self._elsewhere(self.db.read(), but)

    def _elsewhere(self, db: sqlite3.Connection, but: int) -> dict[str, int]:
        found = dict[str, int]()
        for job_id, last_id in jobs.waiting(db, self.now()):
            if job_id == but:
                continue
            try:
                runs = self.db.facts.job_at(db, job_id, last_id).charges
            except Exception:  # one job's trouble keeps no other from its channels
                log.exception("the channels of job %d cannot be told", job_id)
                continue
            found.update({run.channel: job_id for run in runs if run.end is None and run.channel})
        return found

    def tell(self, job_id: int | None, last_id: int, what: str = "") -> None:
        """Tell every listener that what is shown of a job, or of the shop, has changed; of the shop by `what`: a kind of fact, or the drawer."""
        for listener in list(self.changed):
            listener(job_id, last_id, what)

    def outings(self) -> list[Outing]:
        """Every time a pack was handed back, and when it was here again."""
        db = self.db.read()
        mark = jobs.outings_mark(db)
        # Read once for all plans, until a job comes in, goes out or is ruled on.
        held = self._went
        if held is None or held[0] != mark:
            held = self._went = (mark, jobs.outings(db))
        return held[1]

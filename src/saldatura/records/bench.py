"""The work at the bench: each act passes the one door for facts, is computed, and is kept only when all of it holds."""

import logging
import sqlite3
import time
import uuid
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from types import MappingProxyType
from typing import IO, Any

from pydantic import ValidationError

from saldatura import __version__
from saldatura.battery.errors import Impossible
from saldatura.battery.judge import Judgement
from saldatura.battery.judge.tables import cause_words
from saldatura.battery.level.need import LevelNeed
from saldatura.battery.limits.policy import Policy
from saldatura.battery.plan import Repair, RepairName
from saldatura.battery.plan.case import Case
from saldatura.battery.prove.run_types import RunTime
from saldatura.battery.quantities import Meter, groups_words
from saldatura.battery.string.compare_types import Comparison
from saldatura.formats import job_file, shop_files
from saldatura.formats.photo import read_photo
from saldatura.job.admission import Admission
from saldatura.job.assessment import (
    JobPlan,
    JobView,
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
    view_of,
    waiting_of,
)
from saldatura.job.assessment.frozen import handed_then, plan_then, policy_then
from saldatura.job.assessment.handing import Earlier, Handed, earlier_of, fitted_of, handed_of
from saldatura.job.assessment.minding import ringing_of
from saldatura.job.assessment.planning import Mends, may_mend, mends_of, plan_request
from saldatura.job.assessment.proving import ProofPlan, proof_plan_now, proof_plan_then, run_forecast
from saldatura.job.assessment.story import done_of
from saldatura.job.assessment.waiting import refitted
from saldatura.job.doubtful import asked_about
from saldatura.job.facts import ChargeEnd, Intake, JobFacts, NewNeed, Purpose, Safety, SignOffFact
from saldatura.job.facts.clock import ClockJumpedFact, said_of
from saldatura.job.facts.photo import PhotoFact
from saldatura.job.gates import common as gates
from saldatura.job.minding.charge import ChargeWatch
from saldatura.job.moment import Moment
from saldatura.job.registry import AGAINST
from saldatura.job.returns import Outing, Returns, counted, minutes_taken, returns_of
from saldatura.job.run import RunPoint
from saldatura.ledger.registry import kind_of
from saldatura.records import cells, clock, facts, jobs, readings
from saldatura.records.cell_bench import CellBench
from saldatura.records.database import Database
from saldatura.shop.cells.drawer import Drawer
from saldatura.shop.clock import ClockMoved, ClockMovedFact
from saldatura.shop.facts import ShopFacts
from saldatura.shop.reference import ReferencePart

log = logging.getLogger("saldatura")

# A pack that comes back more often shows its last so many jobs.
MOST_EARLIER = 8
# An answer on what the drawer mends is given after so long, s, with the packs that were judged by then.
MENDS_S = 0.5

Drive = Callable[[sqlite3.Connection, JobFacts], None]


class AlreadyHere(ValueError):
    """The job is in this data file already, under `job_id`."""

    def __init__(self, job_id: int) -> None:
        super().__init__(f"this job is here already, as job {job_id}")
        self.job_id = job_id


class Bench:
    """All acts on the jobs and the shop of one data file; `now` is the clock, which the demo sets.

    `pack_clock` gives the clock of a job's virtual pack, None for a real one; `fitted` what the log of each charge that the program
    drives says, by the number of the charge. Whoever is in `changed` is called with the
    number of a job that has a new fact, None for the shop, and the number of that fact.
    """

    def __init__(self, db: Database, now: Callable[[], datetime] = clock.now) -> None:
        self.db = db
        self.now = now
        self.pack_clock: Callable[[int], PackClock | None] = lambda _job_id: None
        self.fitted: Callable[[], Mapping[int, ChargeWatch]] = dict
        self.changed: list[Callable[[int | None, int], None]] = []
        self._went: tuple[int, list[Outing]] | None = None
        self.cells = CellBench(db, lambda: self.now(), self.policy, lambda: self.tell(None, self.shop().last_id))

    # --- acts

    # Gate, append and compute in one transaction: what the gate saw is what the fact joins, and what cannot be computed is not
    # kept.
    def add(
        self, job_id: int, new: object, drive: Drive | None = None, sure: bool = True, seen: int | None = None
    ) -> JobView:
        """Record what an act on a job sends. `drive` does what goes with it, and undoes the act where it fails. What hardly
        can be meant is asked about, unless whoever sends it is `sure`. `seen`: the last fact of the job that the form knew of
        which this was sent; one of the same kind since then is told, and not written over.

        Raises NoSuchJob, Refused, Impossible, Doubtful; nothing is recorded then.
        """
        kind = kind_of(new)
        # The pack's clock is asked first: whoever keeps it may be waiting to write.
        simulated = self.pack_clock(job_id)
        with self.db.write() as db:
            before = self.db.facts.job(db, job_id)
            moment = self._moment(db, simulated)
            if seen is not None:
                gates.not_stale(before.recorded(kind.fact), seen)
            if not sure and (question := asked_about(before, new, moment.at)) is not None:
                raise question
            after = facts.append(db, before, kind.facts_of(before, new, moment))
            self.cells.follow(db, before, after.since(before.last_id), moment.policy)
            view = self._computed(before, after, moment)
            if drive is not None:
                drive(db, after)
            self.db.facts.written(after)
        self._kept(after)
        return view

    def note_jump(self, by_s: float, due: datetime) -> None:
        """Keep a jump of this machine's clock with the shop, and with every job of a real pack of which something is timed."""
        self.add_to_shop(ClockMoved(by_s=round(by_s, 1), due=due))
        self.note_jump_with_jobs(by_s, due)

    def note_jump_with_jobs(self, by_s: float, due: datetime) -> None:
        """The second part of that alone."""
        for job_id, _ in jobs.waiting(self.db.read(), min(due, self.now())):
            try:
                if self.pack_clock(job_id) is None and self.facts(job_id).sign_off is None:
                    with self.db.write() as db:
                        # Nothing is computed for it: it is noted while the program starts.
                        fact = ClockJumpedFact(by_s=round(by_s, 1), at=self.now())
                        after = facts.append(db, self.db.facts.job(db, job_id), [fact])
                        self.db.facts.written(after)
                    self._kept(after)
            except Exception:  # one job's trouble is not the clock's
                log.exception("the jump of the clock could not be kept with job %d", job_id)

    def take_in(self, intake: Intake, safety: Safety | None, sure: bool = True) -> JobView:
        """Open a job; with every safety question answered no, it goes on to Probe. Raises Doubtful, Impossible."""
        if not sure and (question := asked_about(None, intake, self.now())) is not None:
            raise question
        with self.db.write() as db:
            moment = self._moment(db, None)
            after = facts.open_job(db, str(uuid.uuid4()), moment.at)
            for new in (intake, safety):
                if new is not None:
                    after = facts.append(db, after, kind_of(new).facts_of(after, new, moment))
            view = _view(after, moment)
            self.db.facts.written(after)
        self._kept(after)
        return view

    def add_photo(self, job_id: int, picture: bytes, caption: str) -> JobView:
        """Keep a photo. Raises PhotoError, NoSuchJob, Refused."""
        # Refused before the work of reading it, and again with the fact.
        gates.photo(self.facts(job_id))
        photo = read_photo(picture)
        sha256 = self.db.photos.keep(photo.jpeg)
        with self.db.write() as db:
            before = self.db.facts.job(db, job_id)
            gates.photo(before)
            moment = self._moment(db, None)
            kept = PhotoFact(
                at=moment.at, sha256=sha256, width=photo.width, height=photo.height, caption=caption.strip()
            )
            after = facts.append(db, before, [kept])
            view = self._computed(before, after, moment)
            self.db.facts.written(after)
        self._kept(after)
        return view

    def bring_in(self, document: Any, lifted: Mapping[str, Path] = MappingProxyType({})) -> JobView:
        """Restore an exported job here, fact by fact through the door. `lifted`: its photos that lie in files already.

        Raises JobFileError, AlreadyHere.
        """
        held = job_file.parse(document, lifted)
        here = jobs.known(self.db.read(), held.uid)
        if here is not None:
            raise AlreadyHere(here)
        # Before anybody waits for the writer: a long file is looked through for seconds.
        admission = Admission(held.uid, held.opened_at, self.now(), self.policy())
        job_file.admit(held, admission)
        # Only now: a file that is refused leaves nothing behind.
        for jpeg in held.pictures:
            self.db.photos.keep(jpeg)
        with self.db.write() as db:
            here = jobs.known(db, held.uid)
            if here is not None:
                raise AlreadyHere(here)
            moment = self._moment(db, None)
            after = facts.append(db, facts.open_job(db, held.uid, held.opened_at), admission.done().whole)
            after = facts.brought_in(db, after, moment.at)
            # What charges there is no charge here: how it ended nobody here knows, and no output here is its.
            ends = [
                ChargeEnd(charge=run.id, outcome="stopped", volts=None, id=after.last_id + n, at=moment.at)
                for n, run in enumerate((run for run in after.charges if run.end is None), start=1)
            ]
            after = facts.append(db, after, ends)
            facts.note_standing(db, after)
            view = _view(after, moment)
            self.db.facts.written(after)
        self._kept(after)
        return view

    def add_to_shop(self, new: object, seen: int | None = None) -> ShopFacts:
        """Record what an act on the shop sends; `seen` as in `add`. Raises Refused, Impossible."""
        kind = kind_of(new)
        with self.db.write() as db:
            if seen is not None:
                gates.not_stale(self.db.facts.shop(db).of(kind.fact), seen)
            facts.append_to_shop(db, kind.facts_of(self.db.facts.shop(db), new, self._moment(db, None)))
        shop = self.shop()
        self.tell(None, shop.last_id)
        return shop

    # --- what is seen

    def view(self, job_id: int, part: int | None = None) -> JobView:
        """A job with what follows from its facts, a signed one as it was signed; or an earlier part, as it was signed.

        Raises NoSuchJob, Impossible for a part that is not there.
        """
        of = self.facts(job_id)
        if part is not None:
            signed = of.of(SignOffFact)
            if part > len(signed):
                raise Impossible("part", f"job {job_id} has {len(signed)} signed parts, no part {part}")
            of = of.until(signed[part - 1].id)
        view = view_of(of, self.now(), self.pack_clock(job_id), policy_then(of) or self.policy(), AGAINST)
        for trouble in view.assessment.troubles:
            log.error("job %d: %s", job_id, trouble)
        return view

    def mark(self, job_id: int) -> str:
        """What changes with everything a job's view shows: its facts, the shop's, and the minute while time counts for it.

        Raises NoSuchJob.
        """
        of, pack_clock = self.facts(job_id), self.pack_clock(job_id)
        timed = of.sign_off is None and (of.charging is not None or of.last_set("prove") is not None)
        minute = int(self.now().timestamp() // 60) if timed and pack_clock is None else None
        own = round(pack_clock.clock_s, 0) if timed and pack_clock is not None else None
        speed = (pack_clock.speed, pack_clock.paused) if pack_clock is not None else None
        return f"{__version__} {of.uid} {of.last_id} {self.shop().last_id} {minute} {own} {speed}"

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

    def _judged(self, of: JobFacts) -> Judged:
        then = judged_then(of)
        return then or judged_now(
            of, jobs.confirmed(self.db.read(), of.id), self.policy(), self.shop().distrusted(of.tries)
        )

    def judged_before(self, job_id: int) -> Judgement:
        """What the job was judged to have before anything was done to it: what a repair is to be held against. Raises NoSuchJob, Impossible."""
        before = before_repair(self.facts(job_id))
        return judged(before, jobs.confirmed(self.db.read(), job_id), self.policy()).judgement

    def plan(self, job_id: int, told: NewNeed | None = None) -> JobPlan:
        """The job's repairs side by side, with need and prices as told, or as asked with here. Raises NoSuchJob, Impossible."""
        of = self.facts(job_id)
        then = plan_then(of) if told is None else None
        return then or self._plan(of, told)

    def _plan(self, of: JobFacts, told: NewNeed | None = None) -> JobPlan:
        job_id, db = of.id, self.db.read()
        from_job, before = None, None
        if told is None and of.told is None:
            from_job, before = jobs.told_of(db, of.intake.pack_name, job_id) or (None, None)
        said = told or of.told or (NewNeed.model_validate(before) if before is not None else NewNeed())
        try:
            weighed: Judged | None = self._judged(of)
        except Impossible:  # evidence that contradicts itself plans nothing, and keeps nobody from the prices
            weighed = None
        drawer = self.cells.drawer()
        # What was only simulated teaches nothing of real packs, nor they of it.
        went = [out for out in self._outings() if out.job_id != job_id and out.simulated == of.simulated]
        return plan_of(
            of, weighed, said, self.shop().prices, drawer, self.cells.grades(drawer), minutes_taken(went), counted(went, self.now()),
            self.policy(), self.now(), from_job,
        )  # fmt: skip

    def returns(self) -> Returns:
        """What came back of what was handed over, by kind of repair."""
        return returns_of(self._outings(), self.now())

    def proof_plan(self, job_id: int) -> ProofPlan:
        """What the job is to be proved by, a signed one as it was signed. Raises NoSuchJob."""
        of, policy = self.facts(job_id), self.policy()
        then = proof_plan_then(of)
        return then or proof_plan_now(of, self.now(), self.pack_clock(job_id), policy, self.shop().distrusted(of.tries))

    def proof_run(self, job_id: int, amps: float) -> RunTime | None:
        """How a load run of the charged pack at so many amps is forecast; None while its groups are not read. Raises NoSuchJob."""
        return run_forecast(self.facts(job_id), amps, self.policy())

    def handed(self, job_id: int) -> tuple[JobFacts, Handed]:
        """What the customer and the collection are told of a job. Raises NoSuchJob."""
        of = self.facts(job_id)
        return of, handed_then(of) or self._handed(of)

    def _papers(self, signed: JobFacts) -> dict[str, Any]:
        """What the papers of a job are made from, frozen as it is signed."""
        found: dict[str, Any] = {"handed": self._handed(signed).model_dump(mode="json")}
        # A pack that no plan can be made of, as one out of scope, is signed without.
        with suppress(Impossible, ValidationError):
            found["plan"] = self._plan(signed).model_dump(mode="json")
        return found

    def _handed(self, of: JobFacts) -> Handed:
        signed, policy = of.sign_off, policy_then(of) or self.policy()
        at = signed.at if signed is not None else self.now()
        try:
            ruling = self._judged(of).ruling
        except Impossible:
            ruling = None
        cause = None
        if ruling is not None:
            where = f", {groups_words(ruling.groups).lower()}" if ruling.groups else ""
            cause = f"{cause_words()[ruling.cause]}{where}".capitalize()
        plan = proof_plan_then(of) or proof_plan_now(of, self.now(), self.pack_clock(of.id), policy)
        return handed_of(of, plan, done_of(of, policy), self._fitted(of), cause, at, policy)

    def fitted_in(self, of: JobFacts) -> list[str]:
        """What was put into a pack, and where, with the drawer's word on each cell; of a signed job as it was signed."""
        then = handed_then(of)
        return then.fitted if then is not None else self._fitted(of)

    def _fitted(self, of: JobFacts) -> list[str]:
        # Another shop's cell of a name is another cell.
        seats = [seat for seat in of.structure.seats if seat.changed > of.theirs]
        named = {cell.cell for seat in seats for cell in seat.fitted or () if cell.cell}
        drawer = self.cells.drawer() if named else Drawer()
        here = {name: cell.took for name in named if (cell := drawer.of(name)) is not None}
        return fitted_of(of, here)

    def earlier(self, job_id: int) -> list[Earlier]:
        """The same pack's earlier jobs, by its serial, newest first. Raises NoSuchJob."""
        serial = self.facts(job_id).intake.serial
        others = jobs.of_serial(self.db.read(), serial, job_id)
        return [earlier_of(*self.handed(other), self.now()) for other in others if other < job_id][:MOST_EARLIER]

    def mends(self) -> Mends:
        """Which packs that wait the used cells of the drawer would mend; a job of which it cannot be told is named."""
        db, drawer, policy = self.db.read(), self.cells.drawer(), self.policy()
        waiting, unread, pending, grades = [], list[str](), 0, self.cells.grades(drawer)
        until = time.monotonic() + MENDS_S
        donors = any(c.took.donor and c.standing == "drawer" for c in drawer.cells.values())
        for job_id in jobs.on_the_bench(db) if donors else []:
            try:
                of = self.facts(job_id)
                if time.monotonic() > until and "judgement" not in of.memo:
                    pending += 1
                    continue
                told, prices = of.told or NewNeed(), self.shop().prices
                unjudged = Case(plan_request(of, None, told, prices, policy), policy)
                if not may_mend(of, unjudged, told.cell_size, drawer, grades):
                    continue
                # Judging takes its time: what does not get its turn now is asked for again, and goes on from here.
                request = plan_request(of, self.judgement(job_id), told, prices, policy)
                waiting.append((of, Case(request, policy), told.cell_size))
            except Exception as error:  # one job's trouble is not the drawer's
                unread.append(f"Job {job_id:04d}: what it wants cannot be told ({error or type(error).__name__}).")
        return mends_of(waiting, drawer, grades).model_copy(update={"unread": unread, "pending": pending})

    def level(self, job_id: int, question: LevelQuestion) -> LevelNeed:
        """What the job's groups need to reach the target. Raises NoSuchJob, Refused, Impossible."""
        of = self.facts(job_id)
        gates.work(of)
        return level_of(of, question, self.policy())

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
            raise Impossible("photo", f"this job has no photo {photo_id}")
        return path

    def pictures(self, job_id: int, most: int = 2) -> list[bytes]:
        """The last photos that go with work on a job, as JPEG. Raises NoSuchJob."""
        of = self.facts(job_id)
        shown = {work.photo for work in of.works if work.photo is not None}
        found = [self.db.photos.read(p.sha256) for p in of.photos if p.id in shown]
        return [jpeg for jpeg in found if jpeg is not None][-most:]

    def export(self, job_id: int, shared: bool = False) -> job_file.JobFile:
        """The whole job as a document; `shared`: without what tells whose it is. Raises NoSuchJob."""
        of, now = self.facts(job_id), self.now()
        return job_file.shared(of, now) if shared else job_file.write(of, now, self.db.photos.read)

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
                of, own = self.db.facts.job_at(db, job_id, last_id), self.pack_clock(job_id)
                found += [refitted(of, w, fits, now, own, policy) for w in waiting_of(of, now, own, policy)]
                rings += ringing_of(of, policy)
            except Exception as error:  # one job's trouble is not the bench's
                unread.append(f"Job {job_id:04d}: what it waits for cannot be told ({error or type(error).__name__}).")
        said = said_of(self.shop().of(ClockMovedFact), now)
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

    def tell(self, job_id: int | None, last_id: int) -> None:
        """Tell every listener that what is shown of a job, or of the shop, has changed."""
        for listener in list(self.changed):
            listener(job_id, last_id)

    # --- inside

    def _outings(self) -> list[Outing]:
        db = self.db.read()
        mark = jobs.outings_mark(db)
        # Read once for all plans, until a job comes in, goes out or is ruled on.
        held = self._went
        if held is None or held[0] != mark:
            held = self._went = (mark, jobs.outings(db))
        return held[1]

    def _moment(self, db: Any, simulated: PackClock | None) -> Moment:
        shop = self.db.facts.shop(db)
        return Moment(
            at=self.now(),
            policy=shop.policy,
            meter=shop.meter,
            clock=simulated,
            repeat_v=lambda: readings.repeat_v(db),
            confirmed=lambda job: jobs.confirmed(db, job),
            offered=self._offered,
            last_coupon=shop.last_coupon,
            channels=shop.channels,
            # By the writer's own view: what another act has just written, and nobody has read yet, is seen.
            elsewhere=lambda job: self._elsewhere(db, job),
            drawer=lambda: self.db.cells.drawer(db),
            references=self.references,
            jumped=lambda: moved[-1].at if (moved := shop.of(ClockMovedFact)) else None,
            distrusted=lambda facts: shop.distrusted(facts.tries),
            papers=self._papers,
        )

    def _offered(self, job_id: int, repair: RepairName) -> Repair | None:
        return next((r for r in self.plan(job_id).plan.repairs if r.repair == repair), None)

    def _computed(self, before: JobFacts, after: JobFacts, moment: Moment) -> JobView:
        view = _view(after, moment)
        if view.assessment.troubles:
            known = _view(before, moment).assessment.troubles
            fresh = next((trouble for trouble in view.assessment.troubles if trouble not in known), None)
            if fresh is not None:
                raise Impossible("job", f"with this {fresh[0].lower()}{fresh[1:]} Nothing was recorded.")
        return view

    def _kept(self, after: JobFacts) -> None:
        self.db.facts.keep(after)
        self.tell(after.id, after.last_id)


def _view(facts: JobFacts, moment: Moment) -> JobView:
    return view_of(facts, moment.at, moment.clock, moment.policy, AGAINST)

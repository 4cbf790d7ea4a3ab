"""The work at the bench: each act passes the gate of its kind, is computed, and is kept only when all of it holds."""

import sqlite3
import uuid
from collections.abc import Callable, Mapping
from datetime import datetime
from functools import cached_property
from pathlib import Path
from types import MappingProxyType
from typing import Any

from saldatura.battery.errors import Impossible
from saldatura.battery.plan import Repair
from saldatura.formats import job_file
from saldatura.formats.photo import read_photo
from saldatura.job.admission import Admission
from saldatura.job.assessment import (
    JobView,
    PackClock,
    view_of,
)
from saldatura.job.assessment.frozen import policy_then
from saldatura.job.doubtful import asked_about
from saldatura.job.facts import ChargeEnd, Fact, Intake, JobFacts, Safety, SignOffFact
from saldatura.job.facts.clock import ClockJumpedFact
from saldatura.job.facts.pattern import TakePattern
from saldatura.job.facts.photo import PhotoFact
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.job.registry import AGAINST, kind_of
from saldatura.records import facts, jobs, patterns, readings
from saldatura.records.answers import Answers, log
from saldatura.records.day_bench import DayBench
from saldatura.records.promising import Promising
from saldatura.shop.clock import ClockMoved, ClockMovedFact
from saldatura.shop.facts import ShopFacts

Drive = Callable[[sqlite3.Connection, JobFacts], None]
Join = Callable[[JobFacts, JobFacts, Moment, sqlite3.Connection], None]


class AlreadyHere(ValueError):
    """The job is in this data file already, under `job_id`."""

    def __init__(self, job_id: int) -> None:
        super().__init__(f"this job is here already, as job {job_id}")
        self.job_id = job_id


class Bench(Answers):
    """All acts on the jobs and the shop of one data file; `now` is the clock, which the demo sets.

    `pack_clock` gives the clock of a job's virtual pack, None for a real one; `fitted` what the log of each charge that the program
    drives says, by the number of the charge. Whoever is in `changed` is called with the
    number of a job that has a new fact, None for the shop, and the number of that fact.
    """

    @cached_property
    def day(self) -> DayBench:
        """The day over all jobs."""
        return DayBench(self)

    @cached_property
    def promising(self) -> Promising:
        """What may be promised, and what the record says of the shop."""
        return Promising(self)

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
        view: list[JobView] = []

        def join(before: JobFacts, after: JobFacts, moment: Moment, db: sqlite3.Connection) -> None:
            view.append(self._computed(before, after, moment))
            if drive is not None:
                drive(db, after)

        self._act(job_id, new, join, sure, seen)
        return view[0]

    def record(self, job_id: int, new: object) -> JobFacts:
        """As `add`, for who records many acts one after the other and looks at the job when all are told: only its gate looks at it.

        Raises NoSuchJob, Refused, Impossible; nothing is recorded then.
        """
        return self._act(job_id, new, lambda *_: None)

    def _act(self, job_id: int, new: object, join: Join, sure: bool = True, seen: int | None = None) -> JobFacts:
        """Record an act. `join` does what belongs to it in the same transaction."""
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
            join(before, after, moment, db)
            self.db.facts.written(after)
        self._kept(after)
        return after

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

    def take_in(self, intake: Intake, safety: Safety | None, sure: bool = True, pattern: int | None = None) -> JobView:
        """Open a job; with every safety question answered no, it goes on to Probe. `pattern`: the number of the one it is of. Raises
        Doubtful, Impossible.
        """
        if not sure and (question := asked_about(None, intake, self.now())) is not None:
            raise question
        with self.db.write() as db:
            moment = self._moment(db, None)
            after = facts.open_job(db, str(uuid.uuid4()), moment.at)
            for new in (intake, safety, None if pattern is None else TakePattern(pattern=pattern)):
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
        """Restore an exported job here, fact by fact through the gates. `lifted`: its photos that lie in files already.

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

    def append(self, job_id: int, make: Callable[[JobFacts, Moment], list[Fact]]) -> JobView:
        """Record what an act of another part of the shop makes of a job. Raises NoSuchJob, Impossible, Refused."""
        with self.db.write() as db:
            before = self.db.facts.job(db, job_id)
            moment = self._moment(db, None)
            after = facts.append(db, before, make(before, moment))
            view = self._computed(before, after, moment)
            self.db.facts.written(after)
        self._kept(after)
        return view

    def add_to_shop(self, new: object, seen: int | None = None) -> ShopFacts:
        """Record what an act on the shop sends; `seen` as in `add`. Raises Refused, Impossible."""
        kind = kind_of(new)
        with self.db.write() as db:
            if seen is not None:
                gates.not_stale(self.db.facts.shop(db).of_kind(kind.fact), seen)
            facts.append_to_shop(db, kind.facts_of(self.db.facts.shop(db), new, self._moment(db, None)))
        shop = self.shop()
        self.tell(None, shop.last_id, kind.name)
        return shop

    # --- what is seen

    def view(self, job_id: int, part: int | None = None) -> JobView:
        """A job with what follows from its facts, a signed one as it was signed; or an earlier part, as it was signed.

        Raises NoSuchJob, Impossible for a part that is not there.
        """
        facts = self.facts(job_id)
        if part is not None:
            signed = facts.of_kind(SignOffFact)
            if part > len(signed):
                raise Impossible("part", "no_such_part", f"job {job_id} has {len(signed)} signed parts, no part {part}")
            facts = facts.until(signed[part - 1].id)
        view = view_of(facts, self.now(), self.pack_clock(job_id), policy_then(facts) or self.policy(), AGAINST)
        for trouble in view.assessment.troubles:
            log.error("job %d: %s", job_id, trouble)
        return view

    # --- inside

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
            jumped=lambda: moved[-1].at if (moved := shop.of_kind(ClockMovedFact)) else None,
            distrusted=lambda facts: shop.distrusted(facts.tries),
            of_model=self.patterns.causes,
            pattern=lambda number: patterns.in_use(db, number),
            papers=self._papers,
        )

    def _offered(self, job_id: int, option: str) -> Repair | None:
        return next((r for r in self.plan(job_id).plan.repairs if r.option == option), None)

    def _computed(self, before: JobFacts, after: JobFacts, moment: Moment) -> JobView:
        view = _view(after, moment)
        if view.assessment.troubles:
            known = _view(before, moment).assessment.troubles
            fresh = next((trouble for trouble in view.assessment.troubles if trouble not in known), None)
            if fresh is not None:
                raise Impossible(
                    "job", "cannot_be_computed", f"with this {fresh[0].lower()}{fresh[1:]} Nothing was recorded."
                )
        return view

    def _kept(self, after: JobFacts) -> None:
        self.db.facts.keep(after)
        self.tell(after.id, after.last_id)


def _view(facts: JobFacts, moment: Moment) -> JobView:
    return view_of(facts, moment.at, moment.clock, moment.policy, AGAINST)

"""The work on jobs: each act loads the facts, passes the gates, appends, and gives back the job as it then stands."""

import sqlite3
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from saldatura import __version__
from saldatura.core import gates
from saldatura.core.assess import (
    Assessment,
    JobView,
    LevelQuestion,
    Waiting,
    assess,
    assess_set,
    begun,
    compare_sets,
    level_of,
    proof_of,
    span_point,
    waiting_of,
)
from saldatura.core.compare import Comparison
from saldatura.core.errors import Impossible
from saldatura.core.job import (
    ChargeOutcome,
    Intake,
    JobFacts,
    NewCharge,
    NewJoin,
    NewLead,
    NewReading,
    NewSet,
    NewSignOff,
    PackClock,
    Purpose,
    Release,
    Safety,
    SignOffFact,
    Stage,
)
from saldatura.core.level import LevelNeed
from saldatura.core.measure import NewMeasure, kept
from saldatura.core.photo import NewPin, PhotoFact
from saldatura.core.quantities import Meter
from saldatura.core.run import RunPoint
from saldatura.formats import job_file
from saldatura.formats.photo import read_photo
from saldatura.records import charges, clock, jobs, leads, measures, photos, readings, transfer
from saldatura.records.database import Database


@dataclass(frozen=True)
class _Moment:
    """When an act happened: on our clock, and on that of a virtual pack."""

    at: datetime
    clock: PackClock | None

    @property
    def clock_s(self) -> float | None:
        return None if self.clock is None else self.clock.clock_s


class Bench:
    """All acts on the jobs of one data file; `now` is the clock, which the demo sets.

    `pack_clock` gives the clock of a job's virtual pack, None for a real one.
    """

    def __init__(self, db: Database, now: Callable[[], datetime] = clock.now) -> None:
        self.db = db
        self.now = now
        self.pack_clock: Callable[[int], PackClock | None] = lambda _job_id: None

    def view(self, job_id: int) -> JobView:
        """A job with what follows from its facts. Raises NoSuchJob."""
        return self._view(jobs.load(self.db.read(), job_id))

    def facts(self, job_id: int) -> JobFacts:
        """A job's facts alone. Raises NoSuchJob."""
        return jobs.load(self.db.read(), job_id)

    def _view(self, facts: JobFacts) -> JobView:
        return JobView(facts=facts, assessment=assess(facts, self.now(), self.pack_clock(facts.id)))

    def take_in(self, intake: Intake, safety: Safety | None) -> JobView:
        """Open a job; with every safety question answered no, it goes on to Probe."""
        gates.intake(intake)
        at = self.now()
        with self.db.write() as db:
            job_id = jobs.open_job(db, str(uuid.uuid4()), intake, at)
            if safety is not None:
                self._screen(db, job_id, safety, at)
            facts = jobs.load(db, job_id)
        return self._view(facts)

    def _screen(self, db: Any, job_id: int, safety: Safety, at: datetime) -> None:
        jobs.add_safety(db, job_id, safety, at)
        facts = jobs.load(db, job_id)
        if not safety.found and not facts.stages:
            jobs.add_stage(db, job_id, "probe", at)

    def correct_intake(self, job_id: int, intake: Intake) -> JobView:
        """Record a corrected intake."""
        return self._act(
            job_id,
            lambda facts: gates.correction(facts, intake),
            lambda db, now: jobs.add_intake(db, job_id, intake, now.at),
        )

    def screen(self, job_id: int, safety: Safety) -> JobView:
        """Record a safety screen."""
        return self._act(job_id, gates.not_signed, lambda db, now: self._screen(db, job_id, safety, now.at))

    def release(self, job_id: int, release: Release) -> JobView:
        """Record a release from quarantine."""
        return self._act(
            job_id,
            lambda facts: gates.release(facts, release),
            lambda db, now: jobs.add_release(db, job_id, release, now.at),
        )

    def go_to(self, job_id: int, stage: Stage) -> JobView:
        """Record that the technician moved the job to a stage."""
        return self._act(job_id, gates.work, lambda db, now: jobs.add_stage(db, job_id, stage, now.at))

    def open_set(self, job_id: int, new: NewSet) -> JobView:
        """Open a fresh set of readings."""
        return self._act(job_id, gates.work, lambda db, now: readings.add_set(db, job_id, new, now.at, now.clock_s))

    def read(self, job_id: int, new: NewReading) -> JobView:
        """Store a reading in the last set of its purpose, opening one where there is none."""

        def append(db: Any, now: _Moment) -> None:
            set_id = readings.last_set_id(db, job_id, new.purpose)
            if set_id is None and new.purpose == "load":
                raise gates.Refused("set", "no set under load is begun; begin one in Measures with its current first")
            if set_id is None:
                set_id = readings.add_set(db, job_id, NewSet(purpose=new.purpose), now.at, now.clock_s)
            readings.add_reading(db, job_id, set_id, new, now.at, now.clock_s)

        return self._act(job_id, lambda facts: gates.reading(facts, new), append)

    def level(self, job_id: int, question: LevelQuestion) -> LevelNeed:
        """What the job's groups need to reach the target."""
        facts = self.facts(job_id)
        gates.work(facts)
        return level_of(facts, question)

    def read_lead(self, job_id: int, new: NewLead) -> JobView:
        """Record what a loose lead reads."""
        return self._act(
            job_id, lambda facts: gates.lead(facts, new), lambda db, now: leads.add_lead(db, job_id, new, now.at)
        )

    def join_lead(self, job_id: int, new: NewJoin) -> JobView:
        """Record that a lead was joined, with what its pin then reads."""
        return self._act(
            job_id, lambda facts: gates.join(facts, new), lambda db, now: leads.add_join(db, job_id, new, now.at)
        )

    def add_photo(self, job_id: int, picture: bytes, caption: str) -> JobView:
        """Keep a photo. Raises PhotoError."""
        # Refused before the work of reading it, and again with the fact.
        gates.photo(self.facts(job_id))
        photo = read_photo(picture)
        sha256 = self.db.photos.keep(photo.jpeg)

        def append(db: Any, now: _Moment) -> None:
            kept = PhotoFact(
                id=0, at=now.at, sha256=sha256, width=photo.width, height=photo.height, caption=caption.strip()
            )
            photos.add_photo(db, job_id, kept)

        return self._act(job_id, gates.photo, append)

    def photo(self, job_id: int, photo_id: int) -> Path:
        """The file of a photo. Raises Impossible, NoSuchJob."""
        kept = next((p for p in self.facts(job_id).photos if p.id == photo_id), None)
        if kept is None or not (path := self.db.photos.path(kept.sha256)).exists():
            raise Impossible("photo", f"this job has no photo {photo_id}")
        return path

    def put_pin(self, job_id: int, new: NewPin) -> JobView:
        """Put a pin on a photo, move it, or take it off."""
        return self._act(job_id, lambda facts: gates.pin(facts, new), lambda db, now: photos.add_pin(db, new, now.at))

    def measure(self, job_id: int, new: NewMeasure) -> JobView:
        """Keep a measure beside the readings. Raises Impossible for one that does not compute."""
        measure = kept(new, self.facts(job_id).intake.pack.rated_ah)
        return self._act(
            job_id, lambda facts: gates.measure(facts, new), lambda db, now: measures.add(db, job_id, measure, now.at)
        )

    def span_point(self, job_id: int, purpose: Purpose, from_tap: int, to_tap: int) -> RunPoint:
        """Two taps as a point of the run. Raises Impossible, NoSuchJob."""
        return span_point(self.facts(job_id), purpose, from_tap, to_tap)

    def compare_sets(self, job_id: int, then_id: int, now_id: int) -> Comparison:
        """Two sets of the job side by side. Raises Impossible, NoSuchJob."""
        return compare_sets(self.facts(job_id), then_id, now_id)

    def start_charge(self, job_id: int, new: NewCharge) -> JobView:
        """Record that a group was put on the charger, with the forecast for it."""

        def append(db: Any, now: _Moment) -> None:
            facts = jobs.load(db, job_id)
            plan = level_of(facts, LevelQuestion(target=new.target, current_a=new.current_a))
            need = next((n for n in plan.needs if n.group == new.group), None)
            if need is None:
                raise gates.Refused("there", f"group {new.group} is at the target already; nothing to charge")
            run = begun(need, new.target, now.at).model_copy(update={"clock_s": now.clock_s})
            charges.add(db, job_id, run)

        return self._act(job_id, lambda facts: gates.charge(facts, new.group), append)

    def end_charge(self, job_id: int, charge_id: int, outcome: ChargeOutcome) -> JobView:
        """Record that a charge ended, with the voltage read afterwards."""

        def gate(facts: JobFacts) -> None:
            gates.not_signed(facts)
            run = next((run for run in facts.charges if run.id == charge_id), None)
            if run is None:
                raise Impossible("charge", f"this job has no charge {charge_id}")
            if run.end is not None:
                raise gates.Refused("charging", f"the charge of group {run.group} has ended already")

        return self._act(job_id, gate, lambda db, now: charges.end(db, charge_id, outcome, now.at, now.clock_s))

    def sign_off(self, job_id: int, new: NewSignOff) -> JobView:
        """Freeze the facts, the conclusions and the program's version, and close the job."""

        simulated = self.pack_clock(job_id)

        def gate(facts: JobFacts) -> None:
            gates.sign_off(facts, proof_of(facts, assess_set(facts, "prove"), self.now(), simulated), new)

        def append(db: Any, now: _Moment) -> None:
            facts = jobs.load(db, job_id)
            results: Assessment = assess(facts, now.at, now.clock)
            signed = SignOffFact(
                at=now.at,
                by=new.by,
                reason=new.reason,
                program_version=__version__,
                inputs=facts.model_dump(mode="json"),
                results=results.model_dump(mode="json"),
            )
            jobs.add_sign_off(db, job_id, signed)

        return self._act(job_id, gate, append)

    def export(self, job_id: int) -> job_file.JobFile:
        """The whole job as a document."""
        return job_file.write(self.facts(job_id), self.now(), lambda sha256: self.db.photos.path(sha256).read_bytes())

    def bring_in(self, document: Any) -> JobView:
        """Restore an exported job here. Raises JobFileError or AlreadyHere."""
        facts, pictures = job_file.parse(document)
        for jpeg in pictures:
            self.db.photos.keep(jpeg)
        try:
            with self.db.write() as db:
                job_id = transfer.insert(db, facts)
        except (sqlite3.IntegrityError, OverflowError, KeyError, ValidationError) as error:
            raise job_file.JobFileError(f"the job file does not hold together ({error}); export it again") from error
        return self.view(job_id)

    def waiting(self) -> list[Waiting]:
        """Everything that charges or rests, over all jobs, soonest first."""
        db = self.db.read()
        found = [w for job_id in jobs.waiting_ids(db) for w in self._waiting(jobs.load(db, job_id))]
        return sorted(found, key=lambda w: w.done)

    def _waiting(self, facts: JobFacts) -> list[Waiting]:
        return waiting_of(facts, self.now(), self.pack_clock(facts.id))

    def meter(self) -> Meter:
        """The meter that new sets of readings are taken with."""
        return readings.current_meter(self.db.read())

    def set_meter(self, meter: Meter) -> Meter:
        """Record another meter for new sets."""
        with self.db.write() as db:
            readings.add_meter(db, meter, self.now())
        return meter

    def _act(
        self, job_id: int, gate: Callable[[JobFacts], None], append: Callable[[Any, "_Moment"], object]
    ) -> JobView:
        # The pack's clock is asked first: whoever keeps it may be waiting to write.
        simulated = self.pack_clock(job_id)
        # Gate and append in one transaction: what the gate saw is what the fact joins.
        with self.db.write() as db:
            gate(jobs.load(db, job_id))
            append(db, _Moment(self.now(), simulated))
            facts = jobs.load(db, job_id)
        return JobView(facts=facts, assessment=assess(facts, self.now(), simulated))

"""Acts on the shop's patterns, and what is asked of them: each act is a fact that stays."""

import sqlite3
import uuid
from collections.abc import Callable, Collection, Mapping
from datetime import datetime
from typing import Any, Literal

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.judge.types import CauseName
from saldatura.battery.plan.own_record import ShopMinutes
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Value
from saldatura.formats import pattern_file
from saldatura.formats.pattern_file import HeldPattern, PatternFile
from saldatura.job.assessment.known_of_model import minutes_of_model
from saldatura.job.facts import JobFacts
from saldatura.job.gates.common import not_stale
from saldatura.ledger.fact import Fact
from saldatura.records import facts as records_facts
from saldatura.records import patterns
from saldatura.records.counting import Counted, counted
from saldatura.records.database import Database
from saldatura.shop.patterns import words
from saldatura.shop.patterns.diff import Change, accepted, changes
from saldatura.shop.patterns.experience import Experience, counts, joined
from saldatura.shop.patterns.facts import Identity, NewPattern, NewRetired, RetiredFact, Revised
from saldatura.shop.patterns.lineage import MOST_REVISIONS, Ancestor, Relation, digest_of, relation
from saldatura.shop.patterns.offers import Asked, Known, PatternOffer, offers
from saldatura.shop.patterns.sheet import PatternSheet

Choice = Literal["accept", "keep_both", "skip"]


class Looked(Value):
    """What a file would do here: how it stands to the pattern that is here, where one is, and every line that would change."""

    relation: Relation
    id: int | None
    title: str
    revision: int
    ours: int | None
    lines: list[Change]
    photos: int
    counted: bool = False


class Brought(Value):
    """What became of a file: the pattern's number, and whether anything was recorded."""

    id: int | None
    relation: Relation
    recorded: bool


class PatternBench:
    """The patterns of one data file. Whoever is called by `tell` learns that one of them changed."""

    def __init__(self, db: Database, now: Callable[[], datetime], tell: Callable[[], None]) -> None:
        self.db = db
        self._now = now
        self._tell = tell
        self._known: tuple[tuple[int, int], list[Known]] | None = None

    # --- what is seen

    def current(self, number: int) -> Revised:
        """A pattern as it stands. Raises Impossible where there is none."""
        found = patterns.current(self.db.read(), number)
        if found is None:
            raise Impossible("pattern", "no_such_pattern", words.there_is_no_pattern(number))
        return found

    def history(self, number: int) -> list[Fact]:
        """Everything recorded of a pattern, in order. Raises Impossible where there is none."""
        self.current(number)
        return patterns.facts_of(self.db.read(), number)

    def counted(self, found: Revised, simulated: bool | None = None) -> Counted:
        """What jobs of a pattern came to: real ones where there are any, or those of either kind as asked for."""
        return counted(patterns.signed(self.db.read(), found.uid), self._own(), simulated)

    def causes(self, facts: JobFacts) -> dict[CauseName, float]:
        """On how many other packs of a job's pattern each cause was seen; of virtual packs where it is one."""
        found = self._of_job(facts)
        return {} if found is None else counts(found.sheet.faults, self._lines(found, facts))

    def minutes(self, facts: JobFacts) -> Mapping[RepairName, ShopMinutes]:
        """What repairs took on other packs of a job's pattern: nearer to it than those of all packs."""
        found = self._of_job(facts)
        return {} if found is None else minutes_of_model(found.sheet, self._lines(found, facts))

    def _of_job(self, facts: JobFacts) -> Revised | None:
        db, taken = self.db.read(), facts.pattern
        number = None if taken is None else patterns.standing(db, taken.uid)
        return None if number is None else patterns.current(db, number)

    def _lines(self, found: Revised, facts: JobFacts) -> list[Experience]:
        went = [one for one in patterns.signed(self.db.read(), found.uid) if one.job_id != facts.id]
        own = counted(went, self._own(), facts.simulated).experience
        return [*found.experience, *([own] if own.jobs else [])]

    def offers(self, asked: Asked) -> list[PatternOffer]:
        """The patterns that may be the pack on the counter."""
        db = self.db.read()
        mark = (patterns.mark(db), db.execute("SELECT count(*) FROM job_now WHERE pattern <> ''").fetchone()[0])
        held = self._known
        if held is None or held[0] != mark:
            held = self._known = (mark, patterns.every(db))
        return offers(asked, held[1])

    def export(self, number: int) -> PatternFile:
        """A pattern as one document, with what this shop's real jobs counted. Raises Impossible where there is none."""
        found = self.current(number)
        own = self.counted(found, simulated=False).experience
        lines = [*found.experience, *([own] if own.jobs else [])]
        held = HeldPattern(
            uid=found.uid, revision=found.revision, forked_from=found.forked_from, history=found.history, sheet=found.sheet,
            experience=sorted(lines, key=lambda line: line.shop),
        )  # fmt: skip
        return pattern_file.write(held, self._now(), self.db.photos.read)

    def look(self, document: Any) -> Looked:
        """What a file would do here, with nothing recorded. Raises PatternFileError."""
        return self._looked(self.db.read(), pattern_file.parse(document).pattern)

    def _looked(self, db: sqlite3.Connection, held: HeldPattern) -> Looked:
        number = patterns.known(db, held.uid)
        ours = None if number is None else patterns.current(db, number)
        if ours is None:
            how: Relation = "new"
        else:
            how = relation(ours.digest, ours.history, held.digest, held.history)
            if how == "fork":
                # A branch of it may have been kept beside ours before.
                for fork in patterns.branches(db, held.uid):
                    branch = patterns.current(db, fork)
                    if branch is None:
                        continue
                    of_branch = relation(branch.digest, branch.history, held.digest, held.history)
                    if of_branch != "fork":
                        how, number, ours = of_branch, fork, branch
                        break
        lines = changes(ours.sheet, held.sheet) if ours is not None else []
        more = ours is not None and joined(ours.experience, held.experience, self._own()) != ours.experience
        return Looked(
            relation=how, id=number, title=held.sheet.title, revision=held.revision, ours=None if ours is None else ours.revision,
            lines=lines, photos=len(held.sheet.photos), counted=more,
        )  # fmt: skip

    # --- acts

    def create(self, new: NewPattern) -> int:
        """A pattern of this shop. Raises Impossible for a photo that is not here."""
        self._photos_here(new.sheet)
        with self.db.write() as db:
            self._identity(db)
            made = Revised(
                uid=str(uuid.uuid4()), revision=1, digest=digest_of(new.sheet), sheet=new.sheet, by=new.by, why=new.why, at=self._now()
            )  # fmt: skip
            number = patterns.add(db, made)
        self._tell()
        return number

    def revise(self, number: int, new: NewPattern, seen: int | None = None) -> Revised:
        """Another sheet of a pattern; one that says the same is not recorded. `seen`: the revision that the hand knew of. Raises
        Impossible, Refused where somebody else changed it meanwhile.
        """
        self._photos_here(new.sheet)
        with self.db.write() as db:
            found = self._for_work(db, number)
            if seen is not None:
                not_stale([found], seen)
            self._revised(db, number, found, new.sheet, new.by, new.why)
        self._tell()
        return self.current(number)

    def back(self, number: int, by: str, why: str) -> Revised:
        """The sheet as it was before its last change, as another revision. Raises Impossible where it was never changed."""
        with self.db.write() as db:
            found = self._for_work(db, number)
            before = [f for f in patterns.facts_of(db, number) if isinstance(f, Revised) and f.id < found.id]
            other = next((f for f in reversed(before) if f.digest != found.digest), None)
            if other is None:
                raise Impossible("pattern", "nothing_to_take_back", words.nothing_to_take_back())
            self._revised(db, number, found, other.sheet, by, why)
        self._tell()
        return self.current(number)

    def retire(self, number: int, new: NewRetired) -> None:
        """Use a pattern no more, or again. Raises Impossible where there is none."""
        self.current(number)
        with self.db.write() as db:
            patterns.add(db, RetiredFact(**dict(new), at=self._now()), number)
        self._tell()

    def merge(self, number: int, other: int, lines: Collection[str], by: str, why: str) -> Revised:
        """Lines of another pattern taken into one; the other is used no more, and names this one. Raises Impossible."""
        theirs = self.current(other)
        if number == other:
            raise Impossible("other", "merged_with_itself", words.merged_with_itself())
        with self.db.write() as db:
            found = self._for_work(db, number)
            sheet = accepted(found.sheet, theirs.sheet, lines)
            experience = joined(found.experience, theirs.experience, self._own())
            self._revised(db, number, found, sheet, by, why, experience)
            patterns.add(db, RetiredFact(by=by, why=why, merged_into=number, at=self._now()), other)
        self._tell()
        return self.current(number)

    def bring(
        self, document: Any, by: str, why: str, choice: Choice | None = None, lines: Collection[str] | None = None
    ) -> Brought:
        """A pattern of a file. Without a choice a newer revision supersedes, a fork is kept beside ours, and what is here is left. `lines`: of
        those that differ, the ones accepted. Raises PatternFileError, Impossible.
        """
        read = pattern_file.parse(document)
        held = read.pattern
        # Before the writer is held: a photo is a file of its own, and one that nobody names harms nothing.
        if choice != "skip":
            for jpeg in read.photos:
                self.db.photos.keep(jpeg)
        with self.db.write() as db:
            self._identity(db)
            looked = self._looked(db, held)
            if choice == "skip" or (looked.relation == "older" and choice is None):
                return Brought(id=looked.id, relation=looked.relation, recorded=False)
            if looked.id is None:
                number = patterns.add(db, self._of_file(held, held.uid, held.revision, held.history, by, why))
                done = Brought(id=number, relation="new", recorded=True)
            elif looked.relation == "same":
                done = Brought(id=looked.id, relation="same", recorded=self._counts_more(db, looked, held, by, why))
            elif choice == "keep_both" or (looked.relation == "fork" and choice is None):
                done = self._branched(db, looked, held, by, why)
            else:
                done = self._taken(db, looked, held, by, why, lines)
        if done.recorded:
            self._tell()
        return done

    # --- inside

    def _own(self) -> str:
        return self.db.facts.shop(self.db.read()).uid or ""

    def _identity(self, db: sqlite3.Connection) -> None:
        if self.db.facts.shop(db).uid is None:
            records_facts.append_to_shop(db, [Identity(uid=str(uuid.uuid4()), at=self._now())])

    def _photos_here(self, sheet: PatternSheet) -> None:
        for photo in sheet.photos:
            if not self.db.photos.path(photo.sha256).exists():
                raise Impossible("photos", "photo_not_kept", words.photo_is_not_kept(photo.photo))

    def _for_work(self, db: sqlite3.Connection, number: int) -> Revised:
        found, row = patterns.current(db, number), patterns.row_of(db, number)
        if found is None or row is None:
            raise Impossible("pattern", "no_such_pattern", words.there_is_no_pattern(number))
        if row["retired"]:
            raise Refused("pattern", "pattern_retired", words.pattern_is_retired())
        return found

    def _revised(
        self, db: sqlite3.Connection, number: int, found: Revised, sheet: PatternSheet, by: str, why: str,
        experience: list[Experience] | None = None,
    ) -> None:  # fmt: skip
        counted_now = found.experience if experience is None else experience
        digest = digest_of(sheet)
        if digest == found.digest and counted_now == found.experience:
            return
        patterns.add(db, Revised(
            uid=found.uid, revision=found.revision + 1, digest=digest, sheet=sheet, by=by, why=why, at=self._now(),
            history=_with(found.history, found), experience=counted_now, forked_from=found.forked_from,
        ), number)  # fmt: skip

    def _of_file(
        self, held: HeldPattern, uid: str, revision: int, history: list[Ancestor], by: str, why: str
    ) -> Revised:
        return Revised(
            uid=uid, revision=revision, digest=held.digest, sheet=held.sheet, by=by, why=why, at=self._now(), history=history,
            experience=joined([], held.experience, self._own()), forked_from=held.forked_from if uid == held.uid else held.uid, from_file=True,
        )  # fmt: skip

    def _counts_more(self, db: sqlite3.Connection, looked: Looked, held: HeldPattern, by: str, why: str) -> bool:
        """The same sheet, of which another shop counted more by now."""
        assert looked.id is not None
        ours = patterns.current(db, looked.id)
        assert ours is not None
        more = joined(ours.experience, held.experience, self._own())
        if more == ours.experience:
            return False
        counted = ours.model_copy(
            update={"experience": more, "by": by, "why": why, "at": self._now(), "from_file": True}
        )
        patterns.add(db, counted, looked.id)
        return True

    def _branched(self, db: sqlite3.Connection, looked: Looked, held: HeldPattern, by: str, why: str) -> Brought:
        uid = _branch(held)
        number = patterns.known(db, uid)
        if number is None:
            number = patterns.add(db, self._of_file(held, uid, held.revision, held.history, by, why))
            return Brought(id=number, relation=looked.relation, recorded=True)
        return Brought(id=number, relation=looked.relation, recorded=False)

    def _taken(
        self,
        db: sqlite3.Connection,
        looked: Looked,
        held: HeldPattern,
        by: str,
        why: str,
        lines: Collection[str] | None,
    ) -> Brought:
        assert looked.id is not None
        found = self._for_work(db, looked.id)
        whole = lines is None or set(lines) == {change.line for change in looked.lines}
        if whole and looked.relation == "newer":
            # Theirs as it is, with the history it came with: sent on it is still the same file.
            patterns.add(db, self._of_file(held, found.uid, held.revision, held.history, by, why), looked.id)
            return Brought(id=looked.id, relation=looked.relation, recorded=True)
        sheet = held.sheet if whole else accepted(found.sheet, held.sheet, lines or ())
        experience = joined(found.experience, held.experience, self._own())
        self._revised(db, looked.id, found, sheet, by, why, experience)
        return Brought(id=looked.id, relation=looked.relation, recorded=digest_of(sheet) != found.digest)


def _branch(held: HeldPattern) -> str:
    """The number of a branch of a pattern, the same wherever it is kept beside another: by where it left the line."""
    return str(uuid.uuid5(uuid.UUID(held.uid), held.digest))


def _with(history: list[Ancestor], found: Revised) -> list[Ancestor]:
    return [*history, Ancestor(revision=found.revision, digest=found.digest)][-MOST_REVISIONS:]

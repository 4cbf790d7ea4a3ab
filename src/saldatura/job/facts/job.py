"""All facts of one subject (a job, or the shop) in the order of record, and what holds by them."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from typing import Any, Self, TypeVar

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.measures.evidence import Seen
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.becoming import ReplacedFact
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.charge import ChargeBegun, ChargeEnd, ChargeRun, LookFact, StopFact
from saldatura.job.facts.intake import Danger, IntakeFact, ReleaseFact, SafetyFact, StageFact
from saldatura.job.facts.leads import JoinFact, LeadFact
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.facts.notes import NoteFact, TryFact
from saldatura.job.facts.pattern import PatternTaken
from saldatura.job.facts.photo import PhotoFact, PinFact
from saldatura.job.facts.planned import AcceptedFact, NeedFact
from saldatura.job.facts.reading import Purpose, ReadingFact, SetFact
from saldatura.job.facts.ruling import RulingFact
from saldatura.job.facts.sign_off import ArchivedFact, ReopenedFact, SignOffFact, VirtualPackFact
from saldatura.job.facts.strings import StringsFact
from saldatura.job.facts.structure import Structure, structure_of
from saldatura.job.facts.work import WorkFact
from saldatura.ledger.fact import Fact
from saldatura.ledger.log import F, Log

T = TypeVar("T")


@dataclass(frozen=True)
class JobFacts(Log):
    """Every fact of one job.

    `of` gives them as they read of the pack as it now is: by today's numbers, without what is of cells that are out of it.
    `recorded` gives them as they were said, `whole` all of them.
    """

    id: int = 0
    uid: str = ""
    opened_at: datetime = datetime.min
    # Another shop's file brought it in, up to that fact.
    brought_in: datetime | None = None
    theirs: int = 0
    _own: dict[Any, Any] = field(default_factory=dict, compare=False, repr=False)

    def of_kind(self, kind: type[F]) -> list[F]:
        """The facts of a kind that stand, as they read of the pack as it now is."""
        found = super().of_kind(kind)
        if not found or not self.structure.began:
            return found
        read: list[F] = self.kept(kind, lambda: self._read_now(kind, found))
        return read

    def kept(self, key: Any, compute: Callable[[], T]) -> T:
        """What follows from exactly these facts, worked out once."""
        if key not in self._own:
            self._own[key] = compute()
        found: T = self._own[key]
        return found

    def same(self, name: str, asked: Any, compute: Callable[[], T]) -> T:
        """What follows from `asked` alone, worked out anew when that is another: a fact that does not touch it leaves it as it is."""
        held = self.memo.get(("same", name))
        if held is None or held[0] != asked:
            held = self.memo["same", name] = (asked, compute())
        found: T = held[1]
        return found

    def recorded(self, kind: type[F]) -> list[F]:
        """The facts of a kind that stand, as they were said: in the numbers of their own time."""
        return super().of_kind(kind)

    @cached_property
    def structure(self) -> Structure:
        """The groups as they stand, which cells are in them, and what was left out."""
        intakes = super().of_kind(IntakeFact)
        changes = [
            (fact.id, fact.change)
            for kind in self.by_class
            if issubclass(kind, JobFact) and "changes_pack" in kind.effects
            for fact in self.recorded(kind)
        ]
        ordered = sorted(((number, change) for number, change in changes if change is not None), key=lambda one: one[0])
        return structure_of(intakes[-1].pack.series if intakes else 1, ordered)

    def _read_now(self, kind: type[F], found: list[F]) -> list[Any]:
        structure = self.structure
        if kind is SetFact:
            # Sets that say something of the string as it stands: begun since its last change, or read on in since.
            read = {r.set_id for r in super().of_kind(ReadingFact) if r.id > structure.began}
            return [s for s in found if s.id > structure.began or s.id in read]
        known: list[Any] = []
        for fact in found:
            # One object for one reading of a fact, for as long as the pack is the same: what rests on it is told by that.
            held = self.memo.get(("now", fact.id))
            if held is None or held[0] is not fact or held[1] != structure.mark:
                now = fact.reads_now(structure) if isinstance(fact, JobFact) else fact
                held = self.memo["now", fact.id] = (fact, structure.mark, now)
            if held[2] is not None:
                known.append(held[2])
        return known

    def with_facts(self, facts: Iterable[Fact]) -> Self:
        """The job with more facts at its end."""
        return type(self)(
            id=self.id, uid=self.uid, opened_at=self.opened_at, brought_in=self.brought_in, theirs=self.theirs, **self._grown(facts)
        )  # fmt: skip

    @property
    def intake(self) -> IntakeFact:
        """The intake that holds now. Raises Impossible where none can be read."""
        found = self.of_kind(IntakeFact)
        if not found:
            raise Impossible("intake", "intake_incomplete", words.INTAKE_OF_THIS_JOB)
        return found[-1]

    @property
    def parted(self) -> bool:
        """Whether its strings touch no longer. A pack of strings comes with them joined."""
        return self.parted_at(self.last_id)

    def parted_at(self, number: int) -> bool:
        """The same as it was when a fact was recorded."""
        joins = [(fact.id, fact.joined) for fact in self.of_kind(StringsFact)]
        joins += [
            (t.id, t.became.strings == "joined")
            for t in self.of_kind(TickFact)
            if t.became is not None and t.became.strings is not None
        ]
        return not max((one for one in joins if one[0] <= number), default=(0, True))[1]

    @property
    def safety(self) -> list[SafetyFact]:
        """Safety screens."""
        return self.of_kind(SafetyFact)

    @property
    def releases(self) -> list[ReleaseFact]:
        """Releases from quarantine."""
        return self.of_kind(ReleaseFact)

    @property
    def stages(self) -> list[StageFact]:
        """Moves from stage to stage."""
        return self.of_kind(StageFact)

    @property
    def sets(self) -> list[SetFact]:
        """Sets of readings."""
        return self.of_kind(SetFact)

    @property
    def readings(self) -> list[ReadingFact]:
        """Readings, also those corrected since."""
        return self.of_kind(ReadingFact)

    @property
    def leads(self) -> list[LeadFact]:
        """Loose leads as read."""
        return self.of_kind(LeadFact)

    @property
    def joined(self) -> list[JoinFact]:
        """Leads as joined."""
        return self.of_kind(JoinFact)

    @property
    def photos(self) -> list[PhotoFact]:
        """Photos."""
        return self.of_kind(PhotoFact)

    @property
    def pins(self) -> list[PinFact]:
        """Pins on photos as put."""
        return self.of_kind(PinFact)

    @property
    def measures(self) -> list[MeasureFact]:
        """Measures beside the readings."""
        return self.of_kind(MeasureFact)

    @property
    def replaced(self) -> list[ReplacedFact]:
        """Groups whose cells were replaced."""
        return self.of_kind(ReplacedFact)

    @property
    def need(self) -> NeedFact | None:
        """Need and prices as last told."""
        return self.of_kind(NeedFact)[-1] if self.of_kind(NeedFact) else None

    @property
    def pattern(self) -> PatternTaken | None:
        """What the shop knew of the pack's model, as the job took it over last."""
        return self.of_kind(PatternTaken)[-1] if self.of_kind(PatternTaken) else None

    @property
    def accepted(self) -> AcceptedFact | None:
        """The option the customer took last."""
        return self.of_kind(AcceptedFact)[-1] if self.of_kind(AcceptedFact) else None

    @property
    def as_told(self) -> IntakeFact:
        """The intake as it was told: the pack that came in. Raises Impossible as `intake` does."""
        return self.recorded(IntakeFact)[-1] if self.recorded(IntakeFact) else self.intake

    @property
    def harvested(self) -> frozenset[int]:
        """Groups that were cut out as donors and are not filled again."""
        return frozenset(k for k, seat in enumerate(self.structure.seats, start=1) if seat.cut_out)

    @property
    def works(self) -> list[WorkFact]:
        """What was done beside charging."""
        return self.of_kind(WorkFact)

    @property
    def notes(self) -> list[NoteFact]:
        """What was said and seen along the way."""
        return self.of_kind(NoteFact)

    @property
    def tries(self) -> list[TryFact]:
        """What was tried, and what came of it."""
        return self.of_kind(TryFact)

    @property
    def rulings(self) -> list[RulingFact]:
        """What the technician held to be the cause, the last word last."""
        return self.of_kind(RulingFact)

    @property
    def sign_off(self) -> SignOffFact | None:
        """The sign-off that closes the job, where it is closed."""
        last = self.of_kind(SignOffFact)[-1:]
        reopened = self.of_kind(ReopenedFact)[-1:]
        return last[0] if last and not (reopened and reopened[0].id > last[0].id) else None

    @property
    def archived(self) -> bool:
        """Whether the job is in the archive: whatever is recorded later brings it back."""
        last = self.of_kind(ArchivedFact)[-1:]
        return bool(last) and last[0].id == self.last_id

    def since(self, number: int) -> list[Fact]:
        """The facts recorded after the one of that number, in order."""
        found = (fact for facts in self.by_class.values() for fact in reversed(facts[-50:]) if fact.id > number)
        return sorted(found, key=lambda fact: fact.id)

    def until(self, number: int, known: bool = False) -> Self:
        """The job as it stood when the fact of that number was recorded; `known`: without what was taken back since."""
        gone = self.taken_back if known else frozenset[int]()
        by_class = {
            kind: [f for f in facts if f.id <= number and f.id not in gone] for kind, facts in self.by_class.items()
        }
        return type(self)(
            id=self.id,
            uid=self.uid,
            opened_at=self.opened_at,
            brought_in=self.brought_in,
            theirs=self.theirs,
            by_class={kind: facts for kind, facts in by_class.items() if facts},
            last_id=number,
        )

    @property
    def simulated(self) -> bool:
        """Whether the pack is, or ever was, a virtual one."""
        return bool(self.by_class.get(VirtualPackFact))

    @cached_property
    def charges(self) -> list[ChargeRun]:
        """Charges with their ends, in the order in which they began."""
        recorded = self.of_kind(ChargeBegun), self.of_kind(ChargeEnd), self.of_kind(LookFact), self.of_kind(StopFact)
        held = self.memo.get("charges")
        # The lists are the same ones until a charge is added.
        if held is None or any(a is not b for a, b in zip(held[0], recorded, strict=True)):
            begun, ended, looked, off = recorded
            ends, stops = {end.charge: end for end in ended}, {stop.charge: stop for stop in off}
            looks: dict[int, list[LookFact]] = {}
            for look in looked:
                looks.setdefault(look.charge, []).append(look)
            runs = [
                ChargeRun.model_construct(
                    **dict(run), looks=looks.get(run.id, []), stopped=stops.get(run.id), end=ends.get(run.id)
                )
                for run in begun
            ]
            held = self.memo["charges"] = (recorded, runs)
        found: list[ChargeRun] = held[1]
        return found

    @property
    def charging(self) -> ChargeRun | None:
        """The charge that runs."""
        return next((run for run in self.charges if run.end is None), None)

    @cached_property
    def quarantine(self) -> list[Danger]:
        """Dangers found and not released since. By the order of record; a later screen that finds nothing lifts nothing, nor does taking
        back what told of one, nor what the pack is called or made of since: a release alone does.
        """
        released = max((fact.id for fact in self.releases), default=0)
        ever = [f for kind in (SafetyFact, NoteFact) for f in self.by_class.get(kind, []) if f.id > released]
        since = {danger for f in ever if isinstance(f, SafetyFact) for danger in f.found}
        since |= {danger for f in ever if isinstance(f, NoteFact) for danger in self.dangers_of(f)}
        return [danger for danger in SafetyFact.model_fields if danger in since]

    def dangers_of(self, note: NoteFact) -> list[Danger]:
        """Dangers that a note tells of: what is seen later stops the work like what the screen finds."""
        seen = {e.what for e in note.evidence if isinstance(e, Seen)}
        chemistries = [f.pack.chemistry for f in self.by_class.get(IntakeFact, []) if isinstance(f, IntakeFact)]
        lithium = any(WINDOWS[chemistry].family == "lithium" for chemistry in chemistries)
        found: list[Danger] = ["swollen"] if "swollen" in seen or ("bulged" in seen and lithium) else []
        return [*found, "leaking"] if "leak" in seen else found

    def last_set(self, purpose: Purpose) -> SetFact | None:
        """The set of that purpose opened last."""
        return next((s for s in reversed(self.sets) if s.purpose == purpose), None)

    @cached_property
    def by_set(self) -> dict[int, list[ReadingFact]]:
        """The readings of each set, also those corrected since."""
        found: dict[int, list[ReadingFact]] = {}
        for reading in self.readings:
            found.setdefault(reading.set_id, []).append(reading)
        return found

    @cached_property
    def superseded(self) -> frozenset[int]:
        """Numbers of the readings that a later one corrects."""
        return frozenset(r.supersedes for r in self.readings if r.supersedes is not None)

    @cached_property
    def _standing(self) -> dict[int, list[ReadingFact]]:
        corrected = self.superseded
        return {set_id: [r for r in here if r.id not in corrected] for set_id, here in self.by_set.items()}

    def standing(self, set_id: int) -> list[ReadingFact]:
        """The readings of a set that no later one supersedes."""
        return self._standing.get(set_id, [])

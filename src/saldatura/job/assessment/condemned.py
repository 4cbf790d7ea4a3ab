"""Groups whose cells are never used again, whatever they read later: what was seen of them, or once read at rest.

Only other cells clear a group; and where it was condemned by a reading, a reading on its own tabs that shows a wire to be at fault.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Literal

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import CONNECTED_V, REVERSED_BELOW_V
from saldatura.battery.limits.states import is_lost
from saldatura.battery.measures.evidence import Seen
from saldatura.battery.quantities import PackPoint, Value, volts_words
from saldatura.job.assessment.sets import judged_set
from saldatura.job.assessment.words import condemned as words
from saldatura.job.facts import (
    JobFacts,
    NoteFact,
    ReadingFact,
    ReleaseFact,
    SafetyFact,
    SetFact,
    TakenBackFact,
    WorkFact,
)
from saldatura.job.facts.intake import DAMAGING, Danger

Why = Literal[
    "swollen",
    "bulged",
    "leaking",
    "dented",
    "crushed",
    "reversed",
    "dead",
    "under_floor",
    "terminals",
    "wet",
    "torn_tab",
]
# States that a reading at rest leaves behind for good.
GRAVE = ("reversed", "dead", "under_floor")
SEEN: dict[str, Why] = {
    "swollen": "swollen",
    "bulged": "bulged",
    "leak": "leaking",
    "dented": "dented",
    "torn_tab": "torn_tab",
}
SCREENED: dict[Danger, Why] = {"swollen": "swollen", "leaking": "leaking", "crushed": "crushed"}
# A slip of the hand is read over at once. What an instrument read is no slip of any hand.
SLIP = timedelta(minutes=10)
BY_HAND = "typed"


class Condemned(Value):
    """Why a group's cells are never used again: since when, by which fact, at which volts where it was read. `placed`: it is known to be
    this group; else it is one of the groups, and nobody has said which.
    """

    why: Why
    since: datetime
    fact: int
    volts: float | None = None
    placed: bool = True


def condemned_of(facts: JobFacts, policy: Policy) -> dict[int, Condemned]:
    """The groups that are condemned as they stand, by today's numbers."""
    return {group: reasons[0] for group, reasons in every_why(facts, policy).items()}


def every_why(facts: JobFacts, policy: Policy) -> dict[int, list[Condemned]]:
    """Everything that ever condemned each group as it stands: what was seen before what was read, each kind once."""
    return facts.kept(("condemned", policy), lambda: _every_why(facts, policy))


def _every_why(facts: JobFacts, policy: Policy) -> dict[int, list[Condemned]]:
    found: dict[int, list[Condemned]] = {}
    for group, why in (*_seen(facts), *_read(facts, policy)):
        reasons = found.setdefault(group, [])
        if all(other.why != why.why for other in reasons):
            reasons.append(why)
    # What is known to be of this group goes before what may be of any.
    return {group: sorted(reasons, key=lambda why: not why.placed) for group, reasons in sorted(found.items())}


# --- seen


def _seen(facts: JobFacts) -> Iterator[tuple[int, Condemned]]:
    structure, lost = facts.structure, list[tuple[NoteFact | SafetyFact, Why]]()
    for note in facts.recorded(NoteFact):
        for e in note.evidence:
            if isinstance(e, Seen) and e.what in SEEN:
                if not e.at.groups:
                    lost.append((note, SEEN[e.what]))
                for group in e.at.groups:
                    now = structure.holds(group, note.id)
                    if now is not None:
                        yield now, Condemned(why=SEEN[e.what], since=note.at, fact=note.id)
    for screen in facts.recorded(SafetyFact):
        lost += [(screen, SCREENED[danger]) for danger in screen.found if danger in DAMAGING]
    for fact, why in lost:
        yield from _somewhere(facts, fact, why)
    yield from _wet(facts)


def _somewhere(facts: JobFacts, fact: NoteFact | SafetyFact, why: Why) -> Iterator[tuple[int, Condemned]]:
    """Damage of which it was not said where: in the groups that a release or a note names since, else in any of them."""
    structure = facts.structure
    release = next((r for r in facts.recorded(ReleaseFact) if r.id > fact.id and r.groups), None)
    if release is not None:
        held = [structure.holds(group, release.id) for group in release.groups]
        yield from ((k, Condemned(why=why, since=fact.at, fact=fact.id)) for k in held if k is not None)
        return
    noted = any(
        isinstance(e, Seen) and SEEN.get(e.what) == why and e.at.groups
        for note in facts.recorded(NoteFact)
        for e in note.evidence
    )
    if noted:
        return
    for k, seat in enumerate(structure.seats, start=1):
        if seat.changed < fact.id:
            yield k, Condemned(why=why, since=fact.at, fact=fact.id, placed=len(structure.seats) == 1)


def _wet(facts: JobFacts) -> Iterator[tuple[int, Condemned]]:
    """A pack that was wet inside, until somebody says that it is dry."""
    wet = next((s for s in reversed(facts.recorded(SafetyFact)) if s.wet), None)
    if wet is None:
        return
    dried = any(r.dried and r.id > wet.id for r in facts.recorded(ReleaseFact))
    dried = dried or any(w.did == "dried" and w.id > wet.id for w in facts.recorded(WorkFact))
    if dried:
        return
    for k, seat in enumerate(facts.structure.seats, start=1):
        if seat.changed < wet.id:
            yield k, Condemned(why="wet", since=wet.at, fact=wet.id)


# --- read


def _read(facts: JobFacts, policy: Policy) -> Iterator[tuple[int, Condemned]]:
    """What rested too low while its cells were in, in each of the packs that this one was."""
    window, structure = policy.window(facts.intake.pack.chemistry), facts.structure
    for then in packs_before(facts):
        now_at = {seat.was: k for k, seat in enumerate(structure.seats, start=1)}
        for group, read, volts, why in _grave(then, window, policy):
            seat = then.structure.seats[group - 1]
            now = now_at.get(seat.was)
            if now is not None and structure.seats[now - 1].changed <= seat.changed:
                yield now, Condemned(why=why, since=read.at, fact=read.id, volts=volts, placed=why != "terminals")


def packs_before(facts: JobFacts) -> Iterator[JobFacts]:
    """The job as it stood before each change of its pack, oldest first, and as it stands."""
    for change in facts.structure.changes:
        yield before_change(facts, change)
    yield facts


def before_change(facts: JobFacts, change: int) -> JobFacts:
    """The job as it stood when the fact of that number changed its pack, without what was taken back since."""
    gone = frozenset(number for number in facts.taken_back if number < change)
    held = facts.memo.get(("before", change))
    if held is None or held[0] != gone:
        held = facts.memo["before", change] = (gone, facts.until(change - 1, known=True))
    found: JobFacts = held[1]
    return found


def _grave(facts: JobFacts, window: Window, policy: Policy) -> Iterator[tuple[int, SetFact, float, Why]]:
    sets = [s for s in facts.sets if s.purpose != "load"]
    for reading_set in sets:
        for g in judged_set(facts, reading_set, policy)[-1].groups:
            if g.volts is None or g.state not in (("reversed",) if window.family == "nickel" else GRAVE):
                continue
            if not _cleared(facts, g.group, reading_set, window):
                why: Why = "reversed" if g.state == "reversed" else "dead" if g.state == "dead" else "under_floor"
                yield g.group, reading_set, g.volts, why
    yield from _corrected(facts, sets, window)
    yield from _bound(facts, sets, window, policy)


def _cleared(facts: JobFacts, group: int, reading_set: SetFact, window: Window) -> bool:
    """Whether a reading on the cells' own tabs shows that a wire was at fault."""
    pack = facts.intake.pack
    return any(
        r.place == "tab" and pack.span(r.point) == (group - 1, group) and (r.volts or 0.0) >= window.rest_floor_v
        for later in facts.sets
        if later.id >= reading_set.id and later.purpose != "load"
        for r in facts.standing(later.id)
    )


def _corrected(facts: JobFacts, sets: list[SetFact], window: Window) -> Iterator[tuple[int, SetFact, float, Why]]:
    """Readings of a group under the floor that were read over since: no slip where they were read over late, or still low. No cell
    climbs to where its work ends in minutes.
    """
    pack = facts.intake.pack
    over = {r.supersedes: r for r in facts.readings if r.supersedes is not None}
    for reading_set in sets:
        for r in facts.by_set.get(reading_set.id, []):
            by = over.get(r.id)
            black, red = pack.span(r.point)
            if by is None or r.volts is None or r.place == "tab" or red - black != 1 or not is_lost(window, r.volts):
                continue
            if r.source == BY_HAND and (by.volts or 0.0) >= window.tool_end_v and by.at - r.at <= SLIP:
                continue
            if not _cleared(facts, red, reading_set, window):
                yield red, reading_set, r.volts, "reversed" if r.volts < REVERSED_BELOW_V else "under_floor"


def taken_back_of(facts: JobFacts, policy: Policy) -> dict[int, Condemned]:
    """Groups whose reading under the floor was taken back, which is no slip where that was done late, or where an instrument read it. The
    pack is shown as if it had not been read; gates look at what was ever established.
    """
    window, structure = policy.window(facts.intake.pack.chemistry), facts.structure
    sets = [s for s in facts.sets if s.purpose != "load"]
    return {
        group: Condemned(why=why, since=read.at, fact=read.id, volts=volts)
        for group, read, volts, why in _taken_back(facts, sets, window)
        if group <= len(structure.seats) and structure.seats[group - 1].changed < read.id
    }


def _taken_back(facts: JobFacts, sets: list[SetFact], window: Window) -> Iterator[tuple[int, SetFact, float, Why]]:
    pack, of_sets = facts.intake.pack, {reading_set.id: reading_set for reading_set in sets}
    backs = {back.fact: back.at for back in facts.recorded(TakenBackFact)}
    for r in facts.by_class.get(ReadingFact, []):
        if (
            not isinstance(r, ReadingFact)
            or r.id not in backs
            or r.volts is None
            or r.place == "tab"
            or not is_lost(window, r.volts)
        ):
            continue
        black, red = pack.span(r.point)
        reading_set = of_sets.get(r.set_id)
        if (
            reading_set is None
            or red - black != 1
            or red > pack.series
            or (r.source == BY_HAND and backs[r.id] - r.at <= SLIP)
        ):
            continue
        if not _cleared(facts, red, reading_set, window):
            yield red, reading_set, r.volts, "reversed" if r.volts < REVERSED_BELOW_V else "under_floor"


def _bound(
    facts: JobFacts, sets: list[SetFact], window: Window, policy: Policy
) -> Iterator[tuple[int, SetFact, float, Why]]:
    """What the terminals alone bind: so little over so many groups leaves one of them under the floor at least.

    Not where the groups themselves, read before anything charged them, show that the terminals were not on the string.
    """
    pack = facts.intake.pack
    if window.family == "nickel":
        return
    for reading_set in sets:
        for r in facts.standing(reading_set.id):
            if r.volts is None or not isinstance(r.point, PackPoint) or r.volts < CONNECTED_V:
                continue
            share = r.volts / pack.in_string
            if share >= window.rest_floor_v or _off_the_string(facts, r, sets, window, policy):
                continue
            for group in range(1, pack.series + 1):
                if not _cleared(facts, group, reading_set, window):
                    yield group, reading_set, share, "terminals"


def _off_the_string(facts: JobFacts, r: ReadingFact, sets: list[SetFact], window: Window, policy: Policy) -> bool:
    series = facts.intake.pack.series
    charged = min((run.id for run in facts.charges if run.id > r.id), default=None)
    for reading_set in sets:
        if charged is not None and reading_set.id > charged:
            continue
        groups = judged_set(facts, reading_set, policy)[2].groups
        if len(groups) == series and all(g.volts is not None and g.volts >= window.tool_end_v for g in groups):
            return True
    return False


BY_READING: tuple[Why, ...] = ("reversed", "dead", "under_floor", "terminals")


def condemned_says(condemned: Condemned, floor_v: float) -> str:
    """Why a group is condemned, and what clears it, in a sentence."""
    if condemned.why == "wet":
        return words.PACK_WAS_WET_INSIDE
    at = f" at {volts_words(condemned.volts)}" if condemned.volts is not None and condemned.why != "terminals" else ""
    if condemned.why == "terminals":
        said = words.terminals_read_so_little(condemned.volts, floor_v)
    elif condemned.why in BY_READING:
        said = (
            words.rested_before_under_floor(at, floor_v)
            if condemned.why == "under_floor"
            else words.before_why(condemned.why, at)
        )
    elif condemned.placed:
        said = words.it_is(condemned.why)
    else:
        said = words.cell_of_this_pack(condemned.why)
    if condemned.why in BY_READING:
        return words.only_new_cells(said)
    return words.only_other_cells_clear(said) if condemned.placed else words.nothing_of(said)


def lost_of(facts: JobFacts, policy: Policy) -> dict[int, str]:
    """Groups that are condemned, and why, in a sentence; also by what was read of them and taken back since."""
    floor_v = policy.window(facts.intake.pack.chemistry).rest_floor_v
    ever = {**taken_back_of(facts, policy), **condemned_of(facts, policy)}
    return {group: condemned_says(condemned, floor_v) for group, condemned in ever.items()}

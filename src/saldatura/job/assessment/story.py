"""What happened to a pack, in the order of record: held and released, as it came, what was done, parts signed and reopened."""

from collections.abc import Iterable
from datetime import datetime
from typing import Literal

from saldatura.battery.judge import tables
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import evidence_words
from saldatura.battery.quantities import Value, groups_words
from saldatura.job.assessment.sets import Assessed, assessed, once
from saldatura.job.assessment.words import story as words
from saldatura.job.assessment.words.story import LACKS_WORDS, ORIGIN_WORDS
from saldatura.job.facts import (
    DANGERS,
    BoardFact,
    CellsInFact,
    Danger,
    JobFacts,
    LeftOutFact,
    NoteFact,
    ReadingFact,
    ReleaseFact,
    ReopenedFact,
    ReplacedFact,
    RulingFact,
    SafetyFact,
    SetFact,
    SignOffFact,
    TryFact,
    WorkFact,
)
from saldatura.job.facts.base import change_of
from saldatura.job.facts.becoming import Board
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.fitted import FittedCell
from saldatura.job.facts.strings import StringsFact
from saldatura.job.facts.work import place_words
from saldatura.job.words import DID
from saldatura.ledger.fact import Fact


class Held(Value):
    """A time in quarantine: for what, since when, and the release that ended it, where one did."""

    dangers: list[Danger]
    since: datetime
    release: ReleaseFact | None


class Done(Value):
    """Something done to the pack: what, where and by whom in words, and what the readings showed before it."""

    fact: int
    at: datetime
    says: str
    found: str
    minutes: float | None
    photo_id: int | None


class Along(Value):
    """One thing along the way: said or seen, tried, or done."""

    fact: int
    at: datetime
    kind: Literal["note", "try", "work", "ruling"]
    says: str


class SignedPart(Value):
    """An earlier part of the job that was signed, and why it was opened again."""

    part: int
    signed_at: datetime
    signed_by: str
    reopened_at: datetime
    reopened_by: str
    reason: str
    elsewhere: bool = False


def as_it_came(facts: JobFacts, probe: Assessed | None, policy: Policy) -> Assessed | None:
    """The first probe set as it stood before anything was done to the pack; None where the last one is no other."""
    first = next((s for s in facts.recorded(SetFact) if s.purpose == "probe"), None)
    if first is None:
        return None
    read = next((r for r in facts.recorded(ReadingFact) if r.set_id == first.id), None)
    acts: list[Fact] = [*facts.recorded(WorkFact), *changes(facts)]
    after = [act.id for act in acts if read is not None and act.id > read.id]
    if after:
        return once(facts, ("came", policy, min(after)), [first], lambda: _set_then(facts, min(after), first, policy))
    if probe is None or first.id == probe.set.id:
        return None
    return assessed(facts, first, policy).model_copy(update={"runs": {}})


def changes(facts: JobFacts) -> list[Fact]:
    """What made another pack of it, in the order of record."""
    ticks: list[Fact] = [f for f in facts.recorded(TickFact) if f.became is not None]
    ticks += [*facts.recorded(ReplacedFact), *facts.recorded(CellsInFact), *facts.recorded(LeftOutFact)]
    return sorted([*ticks, *facts.recorded(BoardFact)], key=lambda fact: fact.id)


def _set_then(facts: JobFacts, number: int, reading_set: SetFact, policy: Policy) -> Assessed:
    return assessed(facts.until(number - 1), reading_set, policy).model_copy(update={"runs": {}})


def done_of(facts: JobFacts, policy: Policy) -> list[Done]:
    """What was done beside charging, in the order of record and in the numbers of its time, each with what the readings showed before it."""
    found = [_done(facts, work, policy) for work in facts.recorded(WorkFact)]
    for fact in changes(facts):
        said = change_says(fact)
        found.append(Done(fact=fact.id, at=fact.at, says=said, found="", minutes=None, photo_id=None))
    found += [
        Done(
            fact=s.id, at=s.at, says=words.strings_say(s.joined, s.apart_v, s.by), found="", minutes=None, photo_id=None
        )
        for s in facts.of_kind(StringsFact)
    ]
    return sorted(found, key=lambda done: done.fact)


def origin_says(cells: Iterable[FittedCell]) -> str:
    """What cells are that were put in: "new cells", "used cells and cells from a donor"."""
    return " and ".join(dict.fromkeys(ORIGIN_WORDS[cell.origin] for cell in cells))


def change_says(fact: Fact) -> str:
    """What made another pack of it, in a sentence or two."""
    change = change_of(fact)
    fitted, left = change.fitted, change.left_out
    said, by, note = list[str](), getattr(fact, "by", None), getattr(fact, "note", "")
    kinds: dict[str, list[int]] = {}
    for put in fitted:
        kinds.setdefault(origin_says(put.cells), []).append(put.group)
    said += [f"{what.capitalize()} in {groups_words(groups).lower()}" for what, groups in kinds.items()]
    if left is not None:
        said.append(words.group_was_left_out(left.group, left.because, left.agreed_with))
        by = left.by
    board = (
        fact
        if isinstance(fact, BoardFact)
        else fact.became.board
        if isinstance(fact, TickFact) and fact.became
        else None
    )
    if board is not None:
        said.append(board_says(board))
    more = f": {note.strip()}" if note.strip() else ""
    return f"{'. '.join(said)}{more}.{f' By {by}.' if by else ''}"


def board_says(board: Board) -> str:
    """Which board was put in, and what it lacks."""
    what = {"own": words.PACKS_OWN_KIND, "other": words.BOARD_OF_ANOTHER_MAKE, "none": "No board"}[board.make]
    lacks = words.lacks_lacks(", ".join(LACKS_WORDS[lack] for lack in board.lacks)) if board.lacks else ""
    return words.put_in(what, lacks) if board.make != "none" else words.PACK_HAS_NO_BOARD


def _done(facts: JobFacts, work: WorkFact, policy: Policy) -> Done:
    read = next((r for r in reversed(facts.recorded(ReadingFact)) if r.id < work.id), None)
    sets = {s.id: s for s in facts.recorded(SetFact)}
    reading_set = next((s for s in reversed(list(sets.values())) if s.purpose == "probe" and s.id < work.id), None)
    showed = ""
    if reading_set is not None and read is not None:
        then = once(
            facts,
            ("then", work.id, policy),
            [work, reading_set],
            lambda: _set_then(facts, work.id, reading_set, policy),
        )
        showed = then.verdict.headline if then.readings else ""
    said = "; ".join(more for more in (place_words(work.place), work.parts, work.note) if more.strip())
    board = f" {board_says(work.board)}." if work.board is not None else ""
    return Done(
        fact=work.id,
        at=work.at,
        says=words.was_done(DID[work.did], said, board, work.by),
        found=showed,
        minutes=work.minutes,
        photo_id=work.photo,
    )


def along(facts: JobFacts, done: list[Done]) -> list[Along]:
    """What was said, tried and done, in the order in which it happened."""
    found = [Along(fact=d.fact, at=d.at, kind="work", says=d.says) for d in done]
    for note in facts.recorded(NoteFact):
        said = [*map(evidence_words, note.evidence), *([f"“{note.text.strip()}”"] if note.text.strip() else [])]
        found.append(Along(fact=note.id, at=note.at, kind="note", says="; ".join(said)))
    for tried in facts.recorded(TryFact):
        more = f" “{tried.text.strip()}”" if tried.text.strip() else ""
        found.append(Along(fact=tried.id, at=tried.at, kind="try", says=evidence_words(tried.evidence) + more))
    found += [Along(fact=r.id, at=r.at, kind="ruling", says=_ruled(r)) for r in facts.recorded(RulingFact)]
    return sorted(found, key=lambda line: line.fact)


def _ruled(ruling: RulingFact) -> str:
    cause = tables.cause_words()[ruling.cause]
    where = f", {groups_words(ruling.groups).lower()}" if ruling.groups else ""
    why = f": “{ruling.reason.strip()}”" if ruling.reason.strip() else ""
    return words.confirmed_cause_where_why(ruling.confirmed, cause, where, why, ruling.by)


def parts_of(facts: JobFacts) -> list[SignedPart]:
    """Parts of the job that were signed and opened again since, in their order."""
    reopened = facts.of_kind(ReopenedFact)
    found = []
    for number, signed in enumerate(facts.of_kind(SignOffFact), start=1):
        again = next((r for r in reopened if r.id > signed.id), None)
        if again is not None:
            found.append(
                SignedPart(
                    part=number, signed_at=signed.at, signed_by=signed.by, reopened_at=again.at, reopened_by=again.by,
                    reason=again.reason, elsewhere=signed.id <= facts.theirs,
                )
            )  # fmt: skip
    return found


def _found(facts: JobFacts, fact: SafetyFact | NoteFact) -> list[Danger]:
    return fact.found if isinstance(fact, SafetyFact) else facts.dangers_of(fact)


def held_of(facts: JobFacts) -> list[Held]:
    """Every time the pack was held, in the order of record."""
    found: list[Held] = []
    events: list[SafetyFact | ReleaseFact | NoteFact] = [*facts.safety, *facts.releases, *facts.recorded(NoteFact)]
    for fact in sorted(events, key=lambda fact: fact.id):
        last = found[-1] if found and found[-1].release is None else None
        if isinstance(fact, ReleaseFact):
            if last is not None:
                found[-1] = last.model_copy(update={"release": fact})
        elif last is not None:
            dangers = [d for d in DANGERS if d in last.dangers or d in _found(facts, fact)]
            found[-1] = last.model_copy(update={"dangers": dangers})
        elif _found(facts, fact):
            found.append(Held(dangers=_found(facts, fact), since=fact.at, release=None))
    return found

"""What happened to a pack, in the order of record: held and released, as it came, what was done, parts signed and reopened."""

from datetime import datetime
from typing import Literal

from saldatura.core.assess.sets import Assessed, assessed, once
from saldatura.core.evidence import evidence_words
from saldatura.core.facts import (
    DANGERS,
    Danger,
    JobFacts,
    NoteFact,
    ReleaseFact,
    ReopenedFact,
    RulingFact,
    SafetyFact,
    SetFact,
    SignOffFact,
    WorkFact,
)
from saldatura.core.facts.work import place_words
from saldatura.core.judge import tables
from saldatura.core.policy import Policy
from saldatura.core.quantities import Value, groups_words
from saldatura.core.words import DID


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


def as_it_came(facts: JobFacts, probe: Assessed | None, policy: Policy) -> Assessed | None:
    """The first probe set as it stood before anything was done to the pack; None where the last one is no other."""
    first = next((s for s in facts.sets if s.purpose == "probe"), None)
    if first is None or probe is None:
        return None
    read = next(iter(facts.by_set.get(first.id, [])), None)
    work = next((w for w in facts.works if read is not None and w.id > read.id), None)
    if work is not None:
        return once(facts, ("came", policy), [work, first], lambda: _set_then(facts, work.id, first, policy))
    return assessed(facts, first, policy).model_copy(update={"runs": {}}) if first.id != probe.set.id else None


def _set_then(facts: JobFacts, number: int, of: SetFact, policy: Policy) -> Assessed:
    return assessed(facts.until(number), of, policy).model_copy(update={"runs": {}})


def done_of(facts: JobFacts, policy: Policy) -> list[Done]:
    """What was done beside charging, in the order of record, each with what the readings showed before it."""
    found = [_done(facts, work, policy) for work in facts.works]
    for new in facts.replaced:
        said = f"New cells in group {new.group}{f': {new.note}' if new.note.strip() else ''}. By {new.by}."
        found.append(Done(fact=new.id, at=new.at, says=said, found="", minutes=None, photo_id=None))
    return sorted(found, key=lambda done: done.fact)


def _done(facts: JobFacts, work: WorkFact, policy: Policy) -> Done:
    of = next((s for s in reversed(facts.sets) if s.purpose == "probe" and s.id < work.id), None)
    showed = ""
    if of is not None and facts.by_set.get(of.id):
        then = once(facts, ("then", work.id, policy), [work, of], lambda: _set_then(facts, work.id, of, policy))
        showed = then.verdict.headline
    said = "; ".join(more for more in (place_words(work.place), work.parts, work.note) if more.strip())
    return Done(
        fact=work.id,
        at=work.at,
        says=f"{DID[work.did]}: {said}. By {work.by}.",
        found=showed,
        minutes=work.minutes,
        photo_id=work.photo,
    )


def along(facts: JobFacts, done: list[Done]) -> list[Along]:
    """What was said, tried and done, in the order in which it happened."""
    found = [Along(fact=d.fact, at=d.at, kind="work", says=d.says) for d in done]
    for note in facts.notes:
        said = [*map(evidence_words, note.evidence), *([f"“{note.text.strip()}”"] if note.text.strip() else [])]
        found.append(Along(fact=note.id, at=note.at, kind="note", says="; ".join(said)))
    for tried in facts.tries:
        more = f" “{tried.text.strip()}”" if tried.text.strip() else ""
        found.append(Along(fact=tried.id, at=tried.at, kind="try", says=evidence_words(tried.evidence) + more))
    found += [Along(fact=r.id, at=r.at, kind="ruling", says=_ruled(r)) for r in facts.rulings]
    return sorted(found, key=lambda line: line.fact)


def _ruled(ruling: RulingFact) -> str:
    cause = tables.cause_words()[ruling.cause]
    where = f", {groups_words(ruling.groups).lower()}" if ruling.groups else ""
    why = f": “{ruling.reason.strip()}”" if ruling.reason.strip() else ""
    return f"{'Confirmed' if ruling.confirmed else 'Held to be'}: {cause}{where}{why}. By {ruling.by}."


def parts_of(facts: JobFacts) -> list[SignedPart]:
    """Parts of the job that were signed and opened again since, in their order."""
    reopened = facts.of(ReopenedFact)
    found = []
    for number, signed in enumerate(facts.of(SignOffFact), start=1):
        again = next((r for r in reopened if r.id > signed.id), None)
        if again is not None:
            found.append(
                SignedPart(
                    part=number, signed_at=signed.at, signed_by=signed.by, reopened_at=again.at, reopened_by=again.by,
                    reason=again.reason,
                )
            )  # fmt: skip
    return found


def _found(facts: JobFacts, fact: SafetyFact | NoteFact) -> list[Danger]:
    return fact.found if isinstance(fact, SafetyFact) else facts.dangers_of(fact)


def held_of(facts: JobFacts) -> list[Held]:
    """Every time the pack was held, in the order of record."""
    found: list[Held] = []
    told: list[SafetyFact | ReleaseFact | NoteFact] = [*facts.safety, *facts.releases, *facts.notes]
    for fact in sorted(told, key=lambda fact: fact.id):
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

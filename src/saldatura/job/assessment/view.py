"""Everything the program believes of a job at a moment, and the job as the bench sees it."""

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import TypeVar

from pydantic import ValidationError

from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.quantities import groups_words
from saldatura.battery.string.hazard import HazardRequest, hazard
from saldatura.job.assessment.condemned import BY_READING
from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.looked import sharpened
from saldatura.job.assessment.next_step import next_of
from saldatura.job.assessment.now import now_of
from saldatura.job.assessment.pattern import beside
from saldatura.job.assessment.proof import Compared, against_forecast, proof_of
from saldatura.job.assessment.proving import proof_plan_of
from saldatura.job.assessment.rest import last_current
from saldatura.job.assessment.sets import Assessed, assess_set
from saldatura.job.assessment.shown import MOST_CHARGES, Assessment, JobView, measured_before, shown_facts
from saldatura.job.assessment.story import Done, along, as_it_came, done_of, held_of, parts_of
from saldatura.job.assessment.thaw import today
from saldatura.job.assessment.waiting import Waiting, waiting_of
from saldatura.job.assessment.wants import wants_of
from saldatura.job.assessment.watched import open_waits
from saldatura.job.assessment.words import view as words
from saldatura.job.facts import (
    JobFacts,
    UnreadFact,
)
from saldatura.job.facts.measure import Measured, Measures, measures_of
from saldatura.job.facts.photo import pinned
from saldatura.job.joining import joining_of
from saldatura.job.quarantine import instructions
from saldatura.job.run import blank_runs
from saldatura.job.standing import standing_of
from saldatura.job.taking_back import last_act, redoable
from saldatura.ledger.clock import PackClock
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Against

T = TypeVar("T")


def view_of(
    facts: JobFacts,
    now: datetime,
    clock: PackClock | None,
    policy: Policy,
    against: Mapping[type[Fact], Against] | None = None,
) -> JobView:
    """The job at `now`; a signed one as it was signed. Where that cannot be read any more, it is computed anew, and says so."""
    assessment = frozen_assessment(facts)
    if assessment is None:
        assessment = assess(facts, now, clock, policy, against)
        if facts.sign_off is not None:
            lost = words.WHAT_WAS_FROZEN
            assessment = assessment.model_copy(update={"troubles": [lost, *assessment.troubles]})
    return JobView(facts=shown_facts(facts, assessment), assessment=assessment, now=now_of(facts, policy))


def frozen_assessment(facts: JobFacts) -> Assessment | None:
    """What a signed job's sign-off froze; None for a job that is open, and where it cannot be read any more."""
    signed = facts.sign_off
    if signed is None:
        return None
    held = facts.memo.get("signed")
    if held is None or held[0] is not signed:
        held = (signed, _thawed(facts))
        facts.memo["signed"] = held
    found: Assessment | None = held[1]
    return found


def opens_again(facts: JobFacts) -> bool:
    """Whether what a job's sign-off froze can be read: a file may say that it was signed, and hold nothing that was."""
    return _thawed(facts) is not None


def _thawed(facts: JobFacts) -> Assessment | None:
    assert facts.sign_off is not None
    try:
        frozen = Assessment.model_validate(today(facts))
    except (ValidationError, KeyError, TypeError):
        return None
    closed = _closed(facts)
    return frozen.model_copy(
        update={
            "frozen": True,
            "standing": standing_of(facts).standing,
            "closed": closed,
            "wants": {},
            "waiting": [],
            "simulated": facts.simulated,
            "archived": facts.archived,
            "undo": None,
            "looked": {},
            "next": None,
            "parts": parts_of(facts),
        }
    )


def assess(
    facts: JobFacts,
    now: datetime,
    clock: PackClock | None,
    policy: Policy = DEFAULT_POLICY,
    against: Mapping[type[Fact], Against] | None = None,
) -> Assessment:
    """Compute every conclusion on the job at `now` (aware), with the clock of its virtual pack where it has one.

    A part that cannot be computed is left out and named in `troubles`: a job can always be opened.
    """
    intake, troubles = facts.intake, list[str]()
    if unread := facts.by_class.get(UnreadFact):
        troubles.append(words.facts_cannot_be_read(len(unread)))

    def part(what: str, compute: Callable[[], T], otherwise: T) -> T:
        try:
            return compute()
        except Exception as error:  # one part's trouble is not the job's
            troubles.append(words.cannot_be_computed(what, str(error) or type(error).__name__))
            return otherwise

    probe = part("The probe set", lambda: assess_set(facts, "probe", policy), None)
    proving = part("The proving set", lambda: assess_set(facts, "prove", policy), None)
    groups = part(words.WHAT_EACH_GROUP_HOLDS, lambda: groups_now(facts, probe, policy), list[GroupNow]())
    probe, proving = (
        None if assessed is None else _judged_as_condemned(assessed, groups) for assessed in (probe, proving)
    )
    proof = part("The proof", lambda: proof_of(facts, proving, groups, now, clock, policy), None)
    standing = standing_of(facts)

    def tested() -> bool:
        load = assess_set(facts, "load", policy)
        return proof_plan_of(facts, proof, proving, load, groups, policy).outcome == "pass"

    before = part("The first set", lambda: as_it_came(facts, probe, policy), None)
    ended = [run for run in facts.charges if run.end is not None][-MOST_CHARGES:]
    outside = tuple(intake.outside_taps)
    done = part("What was done", lambda: done_of(facts, policy), list[Done]())
    return Assessment(
        stage=standing.stage,
        standing=standing.standing,
        quarantine=instructions(facts.quarantine, facts.charging.group if facts.charging else None),
        held=held_of(facts),
        rest=last_current(facts, now),
        done=done,
        along=along(facts, done),
        undo=last_act(facts, against or {}),
        redo=redoable(facts, now),
        parts=parts_of(facts),
        archived=facts.archived,
        looked={run.id: seen for run in facts.charges if run.end is None and (seen := sharpened(facts, run, policy))},
        waits=open_waits(facts),
        frozen=facts.sign_off is not None,
        closed=_closed(facts),
        simulated=facts.simulated,
        hazard=part("The hazard", lambda: hazard(HazardRequest(pack=intake.pack), policy), None),
        probe=probe,
        before=before,
        prove=proving,
        load=part(words.SET_UNDER_LOAD, lambda: assess_set(facts, "load", policy), None),
        proof=proof,
        groups=groups,
        wants=wants_of(facts, probe, proof, groups),
        waiting=part(words.WHAT_IS_WAITED, lambda: waiting_of(facts, now, clock, policy), list[Waiting]()),
        compared=part(
            "The charges",
            lambda: [c for run in ended if (c := against_forecast(run, policy)) is not None],
            list[Compared](),
        ),
        joining=part("The loose leads", lambda: joining_of(facts, policy), None),
        photos=pinned(facts.photos, facts.pins),
        pattern=beside(facts),
        measures=part(
            "The measures",
            lambda: measures_of(facts.memo, facts.measures, intake.pack),
            Measures(),
        ),
        blank_runs={} if probe and proving else blank_runs(intake.pack, outside, policy, facts.parted),
        next=part("What comes next", lambda: next_of(facts, groups, proof, tested, policy), None),
        measured_before=part("The measures before", lambda: measured_before(facts), list[Measured]()),
        troubles=troubles,
    )


BY_READING_FIRST = ("sound", "imbalanced", "cannot_tell", "run_flat", "output_open", "terminals_differ")


def _judged_as_condemned(assessed: Assessed, groups: list[GroupNow]) -> Assessed:
    """A set whose groups hang well, of a pack some of whose cells are condemned: what they read now does not clear them."""
    lost = [g for g in groups if g.condemned is not None]
    if not lost or assessed.verdict.kind not in BY_READING_FIRST:
        return assessed
    said = [f"Group {g.group}: {g.barred}" for g in lost]
    headline = words.may_not_be_used(groups_words([g.group for g in lost]), lost)
    kind = (
        "group_under_floor"
        if any(g.condemned is not None and g.condemned.why in BY_READING for g in lost)
        else assessed.verdict.kind
    )
    verdict = assessed.verdict.model_copy(
        update={
            "kind": kind, "headline": headline, "reasons": [*said, *assessed.verdict.reasons][:3], "more": [*[*said, *assessed.verdict.reasons][3:], *assessed.verdict.more],
            "cautions": [*assessed.verdict.cautions, words.CONDEMNED_GROUP_NEVER_GOES],
        }
    )  # fmt: skip
    return assessed.model_copy(update={"verdict": verdict})


def _closed(facts: JobFacts) -> str | None:
    if facts.sign_off is not None:
        return words.SIGNED_OFF_AND_CLOSED
    if not facts.safety:
        return words.SAFETY_SCREEN_IS_NOT
    if facts.quarantine:
        return words.quarantine_quarantine(facts.quarantine)
    return None

"""Tick off a step of a work list in its order, with the reading it asks for; a wrong one stops the list."""

from collections.abc import Callable
from datetime import datetime, timedelta

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.join.steps import WorkStep
from saldatura.battery.limits.policy import Policy
from saldatura.battery.wording import figure, typed
from saldatura.job import taking_back
from saldatura.job.assessment.block import Block, block_of
from saldatura.job.assessment.block_work import ListedStep, WorkList, waits_of, wrong_reading
from saldatura.job.assessment.equipped import usual_other
from saldatura.job.assessment.told_block import told_block
from saldatura.job.facts import JobFacts
from saldatura.job.facts.becoming import Became
from saldatura.job.facts.block import Belongs, NewTick, TickFact
from saldatura.job.facts.fitted import NewLeftOut
from saldatura.job.gates import block as block_gates
from saldatura.job.gates import common as gates
from saldatura.job.gates import words
from saldatura.job.gates.block import step_of
from saldatura.job.moment import Moment
from saldatura.job.recording import fitted_group
from saldatura.ledger.clock import PackClock
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind
from saldatura.shop.coupons import CouponFact, Recipe


def _tick_told(fact: TickFact) -> NewTick:
    fields = {name: getattr(fact, name) for name in NewTick.model_fields}
    return NewTick.model_construct(**{**fields, "board": fact.became.board if fact.became is not None else None})


def _fits_tick(facts: JobFacts, fact: TickFact, _before: dict[int, Fact]) -> None:
    if fact.became is None:
        return
    for put in fact.became.fitted:
        gates.group_exists(facts, put.group)
    if fact.became.left_out is not None:
        gates.may_be_left_out(facts, fact.became.left_out.group)


LastCoupon = Callable[[Recipe], CouponFact | None]


def tick(
    facts: JobFacts, new: NewTick, policy: Policy, at: datetime, clock: PackClock | None, last_coupon: LastCoupon
) -> None:
    """A step of the list in its order, with the reading it asks for; nothing is joined while a cell stands wrong or is not read, nor
    welded without a coupon of the day.
    """
    gates.work(facts)
    gates.not_charging(facts)
    work, step = step_of(facts, new, policy)
    if work.name == "drop_group":
        _agreed(facts, work)
    block = block_of(facts, policy)
    _lists_before(block, work)
    if step.done:
        raise errors.Refused("done", "ticked_already", words.ticked_off_already(step.action))
    if work.upcoming is not None and work.next != new.step:
        raise errors.Refused("order", "out_of_order", words.comes_first(work.upcoming.action))
    if step.asks is not None and new.volts is None:
        raise Impossible(
            "volts", "read_it_first", f"read it first: {step.asks.what}, about {figure(step.asks.expected_v, 2)} V"
        )
    waiting = waits_of(facts, at, clock)
    if waiting and not new.early:
        left = max((w.until - at).total_seconds() for w in waiting) / 60
        what = (
            "cures"
            if any(w.kind == "cure" for w in waiting)
            else "rests"
            if any(w.kind == "rest" for w in waiting)
            else "cools"
        )
        raise errors.Refused(
            "wait",
            "wait_not_over",
            f"it {what} for another {max(1, round(left))} min; go on early only if you know that it has",
        )
    if (step.joins or step.wants == "polarity") and block.stop is not None and block.stopped_by is not None:
        raise errors.Refused("polarity", block.stopped_by, block.stop)
    if step.joins or step.wants == "coupon":
        _couponed(facts, step, policy, at, last_coupon)
    if step.joins:
        _enough(block, new)


def _lists_before(block: Block, work: WorkList) -> None:
    """What is built up was taken down, and a case is closed over what is built."""
    before = block.lists[: block.lists.index(work)]
    open_ = next((found for found in before if found.upcoming is not None), None)
    if open_ is not None and open_.upcoming is not None:
        raise errors.Refused(
            "list", "another_list_first", words.list_comes_first(open_.title, work.title, open_.upcoming.action)
        )


def _enough(block: Block, new: NewTick) -> None:
    """Nothing is joined by strips that are not enough for the load, but for a reason that is said."""
    if block.strips is None or block.strips.enough or len(new.reason.strip()) >= LEAST_REASON:
        return
    raise Impossible("reason", "strips_too_thin", words.strips_are_not_enough(block.strips.because))


# Fewer signs are no reason.
LEAST_REASON = 3


def _agreed(facts: JobFacts, work: WorkList) -> None:
    """Nobody shortens a pack on his own word: the charger and the device change with it."""
    group = next(step.leaves_out for step in work.steps if step.leaves_out is not None)
    taken = facts.accepted
    if taken is None or taken.repair != "drop_group" or (taken.groups and group not in taken.groups):
        raise errors.Refused(
            "agreed",
            "not_agreed",
            f"leaving group {group} out is not agreed with the customer: record in Plan that it is, with the reason, first",
        )
    if len(taken.note.strip()) < LEAST_REASON:
        raise errors.Refused(
            "agreed",
            "agreed_without_reason",
            f"it is agreed to leave group {group} out, but nobody says why: record it again in Plan with the reason",
        )


def _couponed(facts: JobFacts, step: ListedStep, policy: Policy, at: datetime, last_coupon: LastCoupon) -> None:
    block = told_block(facts)
    if block.method.by != "weld" or not (step.do == "weld" or step.wants == "coupon"):
        return
    recipe = block.method.recipe
    if recipe is None:
        raise errors.Refused(
            "recipe", "no_recipe", "say on the map by which recipe of the weld lab this block is welded"
        )
    last = last_coupon(recipe)
    if last is None or at - last.at > timedelta(hours=policy.coupon_hours):
        raise errors.Refused(
            "coupon",
            "no_coupon",
            f"no coupon of {recipe.strip} with {recipe.welder} in the last {typed(policy.coupon_hours)} h: pull one in the weld lab before the first weld",
        )
    if last.outcome != "good":
        raise errors.Refused(
            "coupon",
            "coupon_failed",
            f"the last coupon of {recipe.strip} with {recipe.welder} was {last.outcome.replace('_', ' ')}: find its setting again in the weld lab first",
        )


def record_tick(facts: JobFacts, new: NewTick, moment: Moment) -> list[Fact]:
    """A tick, with what is to be waited for after it where its reading lets it count, and what it made of the pack."""
    _, step = block_gates.step_of(facts, new, moment.policy)
    right = wrong_reading(step, new.volts) is None
    record_wait = step.wait is not None and step.wait.minutes > 0 and right
    became = _became(facts, new, step, moment) if right else None
    fields = {name: value for name, value in dict(new).items() if name != "board"}
    return [
        TickFact(
            **fields,
            wait=step.wait if record_wait else None,
            asked=None if step.asks is None else Belongs(expected_v=step.asks.expected_v, within_v=step.asks.within_v),
            became=became,
            **moment.stamp,
        )
    ]


def _became(facts: JobFacts, new: NewTick, step: WorkStep, moment: Moment) -> Became | None:
    taken = facts.accepted
    if step.puts_in:
        return Became(fitted=[fitted_group(facts, group, (), None, moment) for group in step.puts_in])
    if step.leaves_out is not None and taken is not None:
        by = new.by or taken.by
        return Became(
            left_out=NewLeftOut(group=step.leaves_out, because=taken.note, by=by, agreed_with=taken.by, where=new.where)
        )
    if step.strings is not None:
        return Became(strings=step.strings)
    return Became(board=new.board or usual_other(facts)) if step.puts_board else None


KIND = Kind(
    "tick",
    TickFact,
    NewTick,
    gate=lambda facts, new, m: tick(facts, new, m.policy, m.at, m.clock, m.last_coupon),
    make=record_tick,
    fits=_fits_tick,
    sent_from=_tick_told,
    against=taking_back.unrested,
    path="ticks",
    summary="Tick off a step of a work list in its order, with the reading it asks for; a wrong one stops the list.",
)

"""A charge of a group begins."""

from saldatura.battery import errors
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.charging import ROUNDED_SHARE
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.limits.states import is_lost
from saldatura.battery.wording import typed
from saldatura.job.assessment import LevelQuestion, begun, level_of
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.level_planning import begun_on
from saldatura.job.facts import ChargeBegun, ChargeEnd, JobFacts, NewCharge
from saldatura.job.gates import charge as charge_gates
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.kind import Kind


def _fits_charge(facts: JobFacts, fact: ChargeBegun, _before: dict[int, Fact]) -> None:
    """A charge to what a group of the kind is charged to, at a current that one of its size bears, from where it was read."""
    gates.group_exists(facts, fact.group)
    charge_gates.beside(facts, fact.group, fact.channel or None, fact.isolated)
    pack = facts.intake.pack
    window = WINDOWS[pack.chemistry]
    if is_lost(Policy().window(pack.chemistry), fact.start_v):
        raise Impossible("start_v", "under_floor", "a group under the floor or reversed is not charged")
    lost = lost_of(facts, Policy())
    if fact.group in lost:
        raise Impossible("group", "group_lost", f"group {fact.group} is not charged. {lost[fact.group]}")
    if fact.target_v > window.highest_charge_v + ABOVE_FULL_V:
        raise Impossible(
            "target_v",
            "target_above_full",
            f"{typed(fact.target_v)} V is more than a group of {window.name} is charged to",
        )
    if fact.current_a > (1 + ROUNDED_SHARE) * pack.rated_ah:
        raise Impossible(
            "current_a", "above_one_c", f"{typed(fact.current_a)} A is above 1 C, {typed(pack.rated_ah)} A"
        )


def _charge_told(fact: ChargeBegun) -> NewCharge:
    return NewCharge.model_construct(
        group=fact.group, target=fact.target, current_a=fact.current_a, channel=fact.channel or None, clip_v=fact.clip_v, driven=fact.driven
    )  # fmt: skip


def record_charge(facts: JobFacts, new: NewCharge, moment: Moment) -> list[Fact]:
    """A charge as planned. Raises Refused for a group at its target."""
    if new.channel is not None:
        channel = next(c for c in moment.channels if c.name == new.channel)
        return [begun_on(facts, new, channel, moment.at, moment.stamp["clock_s"], moment.policy)]
    plan = level_of(facts, LevelQuestion(target=new.target, current_a=new.current_a), moment.policy)
    need = next((n for n in plan.needs if n.group == new.group), None)
    if need is None:
        raise errors.Refused("at_target", "at_target", f"group {new.group} is at the target already; nothing to charge")
    return [begun(need, new.target, moment.at, moment.stamp["clock_s"])]


def unended(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """A charge that ended was one; only one that runs can be called off."""
    run = next((end for end in facts.recorded(ChargeEnd) if end.charge == fact.id), None)
    return StandsAgainst("ended", "it ran and has ended; what its group reads now is what counts") if run else None


KIND = Kind(
    "charge",
    ChargeBegun,
    NewCharge,
    gate=lambda facts, new, m: charge_gates.charge(facts, new, m.policy, m.channels, m.elsewhere),
    make=record_charge,
    fits=_fits_charge,
    sent_from=_charge_told,
    against=unended,
)

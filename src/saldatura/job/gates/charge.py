"""What stands against a charge: which groups may be charged, over which channels at once, and with the clips where they belong."""

from collections.abc import Callable, Iterable, Mapping, Sequence

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.level.types import Channel
from saldatura.battery.limits.chargeable import refusal
from saldatura.battery.limits.charging import CLIP_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.states import is_overcharged
from saldatura.job.assessment.condemned import BY_READING, lost_of, taken_back_of
from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.sets import Assessed, assess_set
from saldatura.job.facts import JobFacts, NewCharge
from saldatura.job.gates import words
from saldatura.job.gates.common import group_exists, not_charging, not_parted, work


def charge(
    facts: JobFacts,
    new: NewCharge,
    policy: Policy,
    channels: Sequence[Channel] = (),
    elsewhere: Callable[[int], Mapping[str, int]] = lambda _job: {},
) -> None:
    """What `may_begin` asks; and on a channel the clips are read first."""
    may_begin(facts, new, policy, channels, elsewhere)
    if new.channel is not None:
        _clipped(facts, new, policy)


def may_begin(
    facts: JobFacts,
    new: NewCharge,
    policy: Policy,
    channels: Sequence[Channel] = (),
    elsewhere: Callable[[int], Mapping[str, int]] = lambda _job: {},
) -> None:
    """A group under the floor, reversed, unread or already on a charger is not charged; two at once on one string only on named
    channels of which one at most is not isolated.
    """
    work(facts)
    group_exists(facts, new.group)
    channel = None
    if new.channel is not None:
        channel = next((c for c in channels if c.name == new.channel), None)
        if channel is None:
            names = ", ".join(c.name for c in channels) or words.NONE_IS_TOLD_YET
            raise Impossible("channel", "no_such_channel", words.shop_has_no_channel(new.channel, names))
        if channel.kind != "single":
            raise Impossible("channel", "charges_no_group", words.charges_no_group(channel.name))
        if (other := elsewhere(facts.id).get(channel.name)) is not None:
            raise Refused("channel", "channel_on_other_job", words.pack_of_job_end(channel.name, other))
    _chargeable(facts, [new.group], policy)
    if new.driven and channel is None:
        raise Impossible("channel", "name_channel", words.NAME_CHANNEL_WHOSE_INSTRUMENT)
    beside(facts, new.group, new.channel, channel is not None and channel.isolated)


def _clipped(facts: JobFacts, new: NewCharge, policy: Policy) -> None:
    """The clips read this group and no other, the right way round, before anything is switched on."""
    if new.clip_v is None:
        raise Impossible("clip_v", "read_clips_first", words.read_clips_first(new.channel, new.group))
    now = {g.group: g.volts for g in groups_now(facts, assess_set(facts, "probe", policy), policy)}
    rest = now[new.group]
    assert rest is not None
    if abs(new.clip_v - rest) <= CLIP_V:
        return
    if abs(new.clip_v) <= CLIP_V:
        raise Refused("clip_v", "clips_on_nothing", words.clips_read_they_touch(new.clip_v, new.group))
    if new.clip_v < 0:
        raise Refused("clip_v", "clips_reversed", words.clips_read_they(new.clip_v))
    alike = [k for k, v in now.items() if k != new.group and v is not None and abs(v - new.clip_v) <= CLIP_V]
    which = words.alike_alike_2(alike[:3], alike) if alike else ""
    raise Refused("clip_v", "clips_elsewhere", words.clips_read_and_group(new.clip_v, which, new.group, rest))


def beside(facts: JobFacts, group: int, channel: str | None, isolated: bool) -> None:
    """Whether one more charge may run on the string beside those that do."""
    running = [run for run in facts.charges if run.end is None]
    if not running:
        return
    same = next((run for run in running if run.group == group), None)
    if same is not None:
        raise Refused("charging", "group_charging", words.group_is_still_charging(group, same.channel))
    if channel is None or any(not run.channel for run in running):
        not_charging(facts)
    taken = next((run for run in running if run.channel == channel), None)
    if taken is not None:
        raise Refused("channel", "channel_taken", words.group_end_that_charge(channel, taken.group))
    tied = next((run for run in running if not run.isolated), None)
    if tied is not None and not isolated:
        raise Refused("isolated", "not_isolated", words.both_not_isolated(channel, tied.channel))


def charge_string(facts: JobFacts, policy: Policy) -> None:
    """A charger on the whole string charges every group, so every one must be fit for it."""
    work(facts)
    not_parted(facts)
    _chargeable(facts, range(1, facts.intake.pack.series + 1), policy)
    not_charging(facts)


def _chargeable(facts: JobFacts, groups: Iterable[int], policy: Policy) -> None:
    pack, probe = facts.intake.pack, assess_set(facts, "probe", policy)
    now = {g.group: g for g in groups_now(facts, probe, policy)}
    taken_back = taken_back_of(facts, policy)
    for group in groups:
        if group in taken_back and now[group].condemned is None:
            raise Refused("floor", "group_lost", words.group_is_not_charged(group, lost_of(facts, policy)[group]))
        if group in facts.harvested:
            raise Refused("harvested", "group_cut_out", words.group_is_cut_out(group))
        group_now = now[group]
        why = refusal(pack, group_now.volts, policy) if group_now.volts is not None else None
        if why is None and group_now.condemned is not None:
            gate = "floor" if group_now.condemned.why in BY_READING else "condemned"
            raise Refused(gate, "group_barred", words.group_is_not_charged_2(group, group_now.barred))
        if why is not None:
            raise Refused("floor", "group_condemned", words.group_is_not_charged_3(group, why))
        if group_now.volts is None:
            raise Refused("unread", "group_not_settled", words.group_is_not_settled(group))
        if group_now.read_in == "drawer":
            raise Refused("unread", "new_cells_unread", words.group_has_new_cells(group))
    window = policy.window(pack.chemistry)
    over = [g.group for g in now.values() if g.volts is not None and is_overcharged(window, g.volts)]
    if over:
        raise Refused("overcharged", "overcharged", words.above_full_nothing(over))
    for group in groups:
        if (why := _barred(now[group], probe)) is not None:
            raise Refused("readings", "group_doubtful", words.group_is_not_charged_3(group, why))


def _barred(group_now: GroupNow, probe: Assessed | None) -> str | None:
    # What was read after a charge, or in another set since, stands by itself; the set's own bars are of what it read.
    if probe is None or group_now.read_in != "probe":
        return group_now.barred
    return next((b.because for b in probe.verdict.barred if b.group == group_now.group), None)


def runs(facts: JobFacts, charge_id: int) -> None:
    """A charge of that number that has not ended."""
    run = next((run for run in facts.charges if run.id == charge_id), None)
    if run is None:
        raise Impossible("charge", "no_such_charge", words.job_has_no_charge(charge_id))
    if run.end is not None:
        raise Refused("charging", "charge_ended", words.charge_of_group_has(run.group))


def driven(facts: JobFacts, charge_id: int) -> None:
    """A charge that runs, and that the program drives."""
    runs(facts, charge_id)
    if not next(run for run in facts.charges if run.id == charge_id).driven:
        raise Impossible("charge", "charger_switched_here", words.CHARGER_IS_SWITCHED)

"""Gates of the block: a map that can be, cells read before they are joined, steps in their order, a coupon before the first weld."""

from collections.abc import Callable
from datetime import datetime, timedelta

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.join.pack_map import pack_map
from saldatura.battery.limits.policy import Policy
from saldatura.job.assessment.block import block_of, map_request
from saldatura.job.assessment.block_work import ListedStep, WorkList, waits_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import BlockFact, NewBlock, NewPinRead, NewPolarity, NewTick, NewWiring
from saldatura.job.gates import common as gates
from saldatura.ledger.clock import PackClock
from saldatura.shop.coupons import CouponFact, Recipe

LastCoupon = Callable[[Recipe], CouponFact | None]


def block(facts: JobFacts, new: NewBlock) -> None:
    """A block of a pack that may be worked on, whose map can be."""
    gates.work(facts)
    block_there(facts, new)


def block_there(facts: JobFacts, new: NewBlock) -> None:
    """The map must be one, and what is to be done must be possible. Raises Impossible naming its cells, or the field."""
    made = pack_map(map_request(facts, new))
    if new.method.by == "solder" and new.method.tabs == "aluminium":
        raise Impossible(
            "method.tabs",
            "aluminium takes no solder, and the heat harms the pouch: cut the tab so that its plated part stays with the cell, or weld or clamp it",
        )
    series = facts.intake.pack.series
    beyond = next((g for g in new.work_groups if g > series), None)
    if beyond is not None:
        raise Impossible("work_groups", f"there is no group {beyond}; the pack has {series} in series")
    cells = {c.cell for c in made.cells}
    for spot in new.sensors:
        lost = next((c for c in spot.between if c not in cells), None)
        if lost is not None:
            raise Impossible("sensors", f"{spot.sensor} is placed against {lost}, and the map has no such cell")


def polarity(facts: JobFacts, new: NewPolarity, policy: Policy) -> None:
    """A cell of the block, read in its place."""
    gates.work(facts)
    if all(c.cell != new.cell for c in block_of(facts, policy).map.cells):
        raise Impossible("cell", f"the map has no cell {new.cell}")


def wiring(facts: JobFacts, new: NewWiring) -> None:
    """Wires of a pack that may be worked on."""
    gates.work(facts)
    wiring_there(facts, new)


def wiring_there(facts: JobFacts, new: NewWiring) -> None:
    """Each tap of the pack at one pin at most."""
    series = facts.intake.pack.series
    seen: set[int] = set()
    for connector in new.connectors:
        for pin in connector.pins:
            if pin.tap is None:
                continue
            if pin.tap > series:
                raise Impossible(
                    "connectors",
                    f"pin {pin.pin} of {connector.name} goes to tap {pin.tap}; {series} in series have taps 0 to {series}",
                )
            if pin.tap in seen and pin.tap not in (0, series):
                raise Impossible(
                    "connectors",
                    f"tap {pin.tap} is at two pins, the second being pin {pin.pin} of {connector.name}; once each",
                )
            seen.add(pin.tap)


def pin_read(facts: JobFacts, new: NewPinRead, policy: Policy) -> None:
    """A pin that is there, and has a wire to read."""
    gates.work(facts)
    connectors = block_of(facts, policy).wiring.connectors
    connector = next((c for c in connectors if c.name == new.connector), None)
    if connector is None:
        raise Impossible(
            "connector", f"there is no connector {new.connector}; there is {', '.join(c.name for c in connectors)}"
        )
    row = next((r for r in connector.rows if r.pin == new.pin), None)
    if row is None:
        raise Impossible("pin", f"{new.connector} has no pin {new.pin}")
    if row.expected_v is None:
        raise Impossible(
            "pin",
            f"pin {new.pin} of {new.connector} is no tap of this pack ({row.says}); nothing is to be read there in volts",
        )


def step_of(facts: JobFacts, new: NewTick, policy: Policy) -> tuple[WorkList, ListedStep]:
    """The list and its step that a tick is for. Raises Impossible where there is none."""
    block = block_of(facts, policy)
    work = next((found for found in block.lists if found.name == new.list), None)
    if work is None:
        there = ", ".join(found.name for found in block.lists) or (block.lists_stop or "none")
        raise Impossible("list", f"there is no list {new.list} for what is done to this block ({there})")
    step = next((s for s in work.steps if s.joint == new.joint), None)
    if step is None:
        raise Impossible("joint", f"the list has no {new.joint}")
    return work, step


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
    if step.done:
        raise errors.Refused("done", f"{new.joint} is ticked off already")
    if work.next != new.joint:
        raise errors.Refused("order", f"{work.next} comes first")
    if step.asks is not None and new.volts is None:
        raise Impossible("volts", f"read it first: {step.asks.what}, about {step.asks.expected_v:.2f} V")
    waiting = waits_of(facts, at, clock)
    if waiting and not new.early:
        left = max((w.until - at).total_seconds() for w in waiting) / 60
        what = "cures" if any(w.kind == "cure" for w in waiting) else "cools"
        raise errors.Refused(
            "wait", f"it {what} for another {max(1, round(left))} min; go on early only if you know that it has"
        )
    block = block_of(facts, policy)
    if step.joins:
        if block.stop is not None:
            raise errors.Refused("polarity", block.stop)
        _couponed(facts, step, policy, at, last_coupon)


def _agreed(facts: JobFacts, work: WorkList) -> None:
    """Nobody shortens a pack on his own word: the charger and the device change with it."""
    group = next(step.leaves_out for step in work.steps if step.leaves_out is not None)
    taken = facts.accepted
    if taken is None or taken.repair != "drop_group" or (taken.groups and group not in taken.groups):
        raise errors.Refused(
            "agreed",
            f"leaving group {group} out is not agreed with the customer: record in Plan that it is, with the reason, first",
        )
    if len(taken.note.strip()) < 3:
        raise errors.Refused(
            "agreed",
            f"it is agreed to leave group {group} out, but nobody says why: record it again in Plan with the reason",
        )


def _couponed(facts: JobFacts, step: ListedStep, policy: Policy, at: datetime, last_coupon: LastCoupon) -> None:
    told = facts.of(BlockFact)[-1] if facts.of(BlockFact) else NewBlock()
    if told.method.by != "weld" or step.do != "weld":
        return
    recipe = told.method.recipe
    if recipe is None:
        raise errors.Refused("recipe", "say on the map by which recipe of the weld lab this block is welded")
    last = last_coupon(recipe)
    if last is None or at - last.at > timedelta(hours=policy.coupon_hours):
        raise errors.Refused(
            "coupon",
            f"no coupon of {recipe.strip} with {recipe.welder} in the last {policy.coupon_hours:g} h: pull one in the weld lab before the first weld",
        )
    if last.outcome != "good":
        raise errors.Refused(
            "coupon",
            f"the last coupon of {recipe.strip} with {recipe.welder} was {last.outcome.replace('_', ' ')}: find its setting again in the weld lab first",
        )

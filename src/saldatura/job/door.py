"""The one door for facts: every kind once, with its model, what is sent for it, its gate, and how it is recorded.

A new kind is a frozen model and one entry in KINDS. Loading, recording, taking back, exporting, importing and the API's
routes go over this list.
"""

from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal, get_args, get_origin

from pydantic import ValidationError

from saldatura import __version__
from saldatura.battery.cell.chemistry import WINDOWS
from saldatura.battery.errors import Impossible, field_lines
from saldatura.battery.limits.chargeable import ABOVE_FULL_V, is_lost
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import At, sites
from saldatura.battery.measures.measure import NewMeasure
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import GroupPoint, Meter
from saldatura.job import recording, taking_back
from saldatura.job.assessment import assess, assess_set, groups_now, judged_now, opens_again, proof_of
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.proving import proof_plan_now
from saldatura.job.facts import (
    AcceptedFact,
    ArchivedFact,
    BoardFact,
    CellsInFact,
    ChargeBegun,
    ChargeEnd,
    EndOfCharge,
    HarvestedFact,
    Intake,
    IntakeFact,
    JobFacts,
    JoinFact,
    LeadFact,
    LeftOutFact,
    LookFact,
    NeedFact,
    NewAccepted,
    NewArchive,
    NewBoard,
    NewCellsIn,
    NewCharge,
    NewHarvest,
    NewJoin,
    NewLead,
    NewLeftOut,
    NewLook,
    NewNeed,
    NewNote,
    NewReading,
    NewReopening,
    NewRuling,
    NewSet,
    NewSignOff,
    NewStage,
    NewStop,
    NewTry,
    NewWork,
    NoteFact,
    ReadingFact,
    Release,
    ReleaseFact,
    ReopenedFact,
    ReplacedFact,
    ReplacedGroup,
    RulingFact,
    Safety,
    SafetyFact,
    SetFact,
    SignOffFact,
    StageFact,
    StopFact,
    TryFact,
    UnreadFact,
    VirtualPackFact,
    WorkFact,
)
from saldatura.job.facts.block import (
    BlockFact,
    NewBlock,
    NewPinRead,
    NewPolarity,
    NewTick,
    NewWiring,
    PinReadFact,
    PolarityFact,
    TickFact,
    WiringFact,
)
from saldatura.job.facts.clock import ClockJumped, ClockJumpedFact, ClockMoved, ClockMovedFact
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.facts.photo import NewPin, PhotoFact, PinFact
from saldatura.job.facts.wait import NewWait, WaitFact, WaitOver, WaitOverFact
from saldatura.job.gates import block as block_gates
from saldatura.job.gates import charge as charge_gates
from saldatura.job.gates import common as gates
from saldatura.job.gates import plan as plan_gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact, TakenBack, TakenBackFact
from saldatura.shop import gates as shop_gates
from saldatura.shop.coupons import CouponFact, NewCoupon
from saldatura.shop.facts import (
    ChannelFact,
    ChannelGone,
    InstrumentCheck,
    InstrumentChecked,
    InstrumentEntered,
    InstrumentRemoved,
    InstrumentUse,
    InstrumentUsed,
    MeterFact,
    NewInstrument,
    NewPolicy,
    NoChannel,
    PolicyFact,
    Removal,
    ShopChannel,
)
from saldatura.shop.prices import PricesFact, ShopPrices
from saldatura.shop.reference import (
    BlinkFact,
    NewBlink,
    NewReference,
    ReferenceCheck,
    ReferenceChecked,
    ReferenceEntered,
)

Gate = Callable[[Any, Any, Moment], None]
Make = Callable[[Any, Any, Moment], list[Fact]]
Fits = Callable[[JobFacts, Any, dict[int, Fact]], None]


def _no_gate(_facts: Any, _new: Any, _moment: Moment) -> None:
    return


def _fits_any(_facts: JobFacts, _fact: Any, _before: dict[int, Fact]) -> None:
    return


@dataclass(frozen=True)
class Kind:
    """A kind of fact.

    `sent`: what an act sends for it, None where no act does. `gate` refuses an act; `make` gives the facts that an act
    records, by default the sent value with its time. `fits` refuses a fact of a file that does not hang together with those
    before it, by their numbers; `told` gives what was sent for one, where that is more than its own fields. `refs`: fields that hold the number of an earlier fact. `closed`: recorded also while work is
    stopped, `signed`: also on a job that is signed off. `against`: what stands against taking such a fact back; None where that
    cannot be done at all. `path`: its address under the subject in the API, with `says`; None where a route of its own leads to it.
    """

    name: str
    fact: type[Fact]
    sent: Any = None
    of: Literal["job", "shop"] = "job"
    gate: Gate = _no_gate
    make: Make | None = None
    fits: Fits = _fits_any
    told: Callable[[Any], Any] | None = None
    refs: tuple[str, ...] = ()
    closed: bool = False
    signed: bool = False
    against: taking_back.Against | None = None
    path: str | None = None
    says: str = ""
    creates: bool = True

    def sent_for(self, fact: Any) -> Any:
        """What was sent for a fact of this kind, as far as it can be told; None where no act sends any."""
        if self.told is not None:
            return self.told(fact)
        if isinstance(self.sent, type) and isinstance(fact, self.sent):
            return self.sent.model_construct(**{name: getattr(fact, name) for name in self.sent.model_fields})  # type: ignore[attr-defined]
        return None

    def passes(self, facts: JobFacts, fact: Fact, before: dict[int, Fact], moment: Moment) -> None:
        """A fact of a file passes the gate that it would have passed as an act, at its own moment, and hangs together with those before it.

        Raises Refused, Impossible.
        """
        self.fits(facts, fact, before)
        sent = self.sent_for(fact)
        if sent is not None:
            self.gate(facts, sent, moment)
        elif not self.signed:
            gates.not_signed(facts)

    def facts_of(self, facts: Any, new: Any, moment: Moment) -> list[Fact]:
        """What the act records, past its gate. Raises Refused, Impossible."""
        _not_ahead(new, moment.at)
        self.gate(facts, new, moment)
        try:
            if self.make is not None:
                return self.make(facts, new, moment)
            return [self.fact(**dict(new), **moment.stamp)]
        except ValidationError as error:
            # What was sent is within its bounds; what it comes to is not.
            field, message = field_lines(error.errors())[0]
            raise Impossible(field, f"comes to what cannot be: {message}") from error


# Clocks of two devices differ; more than a day is no difference of clocks.
AHEAD = timedelta(days=1)


def _not_ahead(new: Any, now: datetime) -> None:
    """Nothing that an act tells of has yet to come, but what a clock showed that was put back. Raises Impossible."""
    if isinstance(new, ClockMoved):
        return
    for name in getattr(type(new), "model_fields", ()):
        told = getattr(new, name)
        if isinstance(told, datetime) and told > now + AHEAD:
            raise Impossible(name, f"{told:%Y-%m-%d} has not come; look at the date, and at this machine's clock")


# --- how acts are recorded that are more than a sent value with its time


def _intake(facts: JobFacts, new: Intake, moment: Moment) -> None:
    if facts.by_class:
        gates.correction(facts, new, moment.policy)
    else:
        gates.intake(new, moment.policy)


def _against(facts: JobFacts, fact: Fact) -> str | None:
    against = BY_FACT[type(fact)].against
    return "it stays on record; record what is so now" if against is None else against(facts, fact)


def _sign_off_gate(facts: JobFacts, new: NewSignOff, moment: Moment) -> None:
    probe, proving = (assess_set(facts, purpose, moment.policy) for purpose in ("probe", "prove"))
    groups = groups_now(facts, probe, moment.policy)
    tests = proof_plan_now(facts, moment.at, moment.clock, moment.policy, moment.distrusted(facts)).tests
    failed = [test.label.lower() for test in tests if test.outcome == "fail"]
    proof = proof_of(facts, proving, groups, moment.at, moment.clock, moment.policy)
    gates.sign_off(facts, proof, new, failed, lost_of(facts, moment.policy))


def _sign_off_fits(facts: JobFacts, fact: Fact, _before: dict[int, Fact]) -> None:
    """What a file says was signed is what can be shown of it, and not before anything was done."""
    if not opens_again(facts.with_facts([fact])):
        raise Impossible("results", "hold nothing that this program, or an earlier one, would have signed")


def _signed(facts: JobFacts, new: NewSignOff, moment: Moment) -> list[Fact]:
    results = assess(facts, moment.at, moment.clock, moment.policy)
    if results.troubles:
        raise Impossible("job", f"it cannot be frozen as it stands: {results.troubles[0]}")
    inputs = {"facts": [written(fact) for fact in facts.whole], "policy": moment.policy.model_dump()}
    frozen = results.model_dump(mode="json")
    # Evidence that contradicts itself keeps no pack from its owner: that judgement is left out.
    with suppress(Impossible):
        frozen["judged"] = judged_now(facts, moment.confirmed(facts.id), moment.policy).model_dump(mode="json")
    frozen["proof_plan"] = proof_plan_now(
        facts, moment.at, moment.clock, moment.policy, moment.distrusted(facts)
    ).model_dump(mode="json")
    signed = SignOffFact(
        **dict(new),
        **moment.stamp,
        program_version=__version__,
        simulated=facts.simulated,
        inputs=inputs,
        results=frozen,
    )
    papers = moment.papers(facts.with_facts([signed.model_copy(update={"id": facts.last_id + 1})]))
    return [signed.model_copy(update={"results": {**frozen, **papers}})]


# --- what must hold of a fact in a file that is brought in


def _fits_intake(facts: JobFacts, fact: IntakeFact, _before: dict[int, Fact]) -> None:
    if facts.by_class:
        gates.correction(facts, fact, Policy())


def _fits_reading(facts: JobFacts, fact: ReadingFact, before: dict[int, Fact]) -> None:
    gates.on_pack(facts, fact.point)
    if isinstance(fact.point, GroupPoint) and fact.point.group in facts.harvested:
        raise Impossible("point", f"group {fact.point.group} is cut out of this pack; there is nothing to read")
    if not isinstance(before.get(fact.set_id), SetFact):
        raise Impossible("set_id", f"there is no set {fact.set_id} before it")
    old = before.get(fact.supersedes) if fact.supersedes is not None else None
    if fact.supersedes is not None and not (isinstance(old, ReadingFact) and old.point == fact.point):
        raise Impossible("supersedes", f"there is no reading {fact.supersedes} of that point before it")


def _fits_charge(facts: JobFacts, fact: ChargeBegun, _before: dict[int, Fact]) -> None:
    """A charge to what a group of the kind is charged to, at a current that one of its size bears, from where it was read."""
    gates.group_there(facts, fact.group)
    charge_gates.beside(facts, fact.group, fact.channel or None, fact.isolated)
    pack = facts.intake.pack
    window = WINDOWS[pack.chemistry]
    if is_lost(Policy().window(pack.chemistry), fact.start_v):
        raise Impossible("start_v", "a group under the floor or reversed is not charged")
    lost = lost_of(facts, Policy())
    if fact.group in lost:
        raise Impossible("group", f"group {fact.group} is not charged. {lost[fact.group]}")
    if fact.target_v > window.highest_charge_v + ABOVE_FULL_V:
        raise Impossible("target_v", f"{fact.target_v:g} V is more than a group of {window.name} is charged to")
    if fact.current_a > 1.01 * pack.rated_ah:
        raise Impossible("current_a", f"{fact.current_a:g} A is above 1 C, {pack.rated_ah:g} A")


def _charge_told(fact: ChargeBegun) -> NewCharge:
    return NewCharge.model_construct(
        group=fact.group, target=fact.target, current_a=fact.current_a, channel=fact.channel or None, clip_v=fact.clip_v, driven=fact.driven
    )  # fmt: skip


def _tick_told(fact: TickFact) -> NewTick:
    told = {name: getattr(fact, name) for name in NewTick.model_fields}
    return NewTick.model_construct(**{**told, "board": fact.became.board if fact.became is not None else None})


def _fits_accepted(facts: JobFacts, fact: AcceptedFact, _before: dict[int, Fact]) -> None:
    """What keeps lost cells was never taken, whatever the file says was offered."""
    gates.there(facts, At(groups=fact.groups))
    lost = {g.group: g.barred or "" for g in groups_now(facts, None, Policy()) if g.wants_cells}
    plan_gates.keeps_none_lost(lost, fact.offered, fact)
    plan_gates.not_ruled_out(fact.offered, fact)


def _fits_cells_in(facts: JobFacts, fact: CellsInFact, _before: dict[int, Fact]) -> None:
    for put in fact.fitted:
        gates.group_there(facts, put.group)


def _fits_tick(facts: JobFacts, fact: TickFact, _before: dict[int, Fact]) -> None:
    if fact.became is None:
        return
    for put in fact.became.fitted:
        gates.group_there(facts, put.group)
    if fact.became.left_out is not None:
        gates.left_out_there(facts, fact.became.left_out.group)


KINDS: tuple[Kind, ...] = (
    Kind(
        "intake", IntakeFact, Intake, gate=_intake, make=recording.corrected, fits=_fits_intake, closed=True,
        path="intake", says="Correct whose pack it is and what it is.", creates=False,
    ),
    Kind(
        "safety", SafetyFact, Safety, gate=lambda facts, _new, _m: gates.not_signed(facts), make=recording.screened, closed=True,
        path="safety", says="Answer the safety screen.", creates=False,
    ),
    Kind(
        "release", ReleaseFact, Release, gate=lambda facts, new, _m: gates.release(facts, new), closed=True,
        fits=lambda facts, fact, _b: gates.release(facts, fact),
        against=taking_back.last_of_all,
        path="release", says="Release the pack from quarantine, with name and reason.", creates=False,
    ),
    Kind(
        "stage", StageFact, NewStage, gate=lambda facts, _new, _m: gates.work(facts), against=taking_back.nothing,
        path="stage", says="Move the job to a stage.", creates=False,
    ),
    Kind(
        "set", SetFact, NewSet, gate=lambda facts, _new, _m: gates.work(facts),
        make=lambda facts, new, m: [recording.new_set(facts, new, m)], against=taking_back.unread,
        path="sets", says="Begin a fresh set of readings.",
    ),
    Kind(
        "reading", ReadingFact, NewReading, gate=lambda facts, new, _m: gates.reading(facts, new), make=recording.read,
        fits=_fits_reading, refs=("set_id", "supersedes"), against=taking_back.uncorrected,
        path="readings", says="Store a reading; when this answers, it is on the disk.",
    ),
    Kind(
        "charge", ChargeBegun, NewCharge, gate=lambda facts, new, m: charge_gates.charge(facts, new, m.policy, m.channels, m.elsewhere), make=recording.charge,
        fits=_fits_charge, told=_charge_told, against=taking_back.unended,
    ),
    Kind(
        "charge_end", ChargeEnd, EndOfCharge, gate=lambda facts, new, _m: charge_gates.end_of_charge(facts, new),
        told=lambda fact: EndOfCharge.model_construct(**{name: getattr(fact, name) for name in EndOfCharge.model_fields}), refs=("charge",), closed=True,
        against=taking_back.unfollowed,
    ),
    Kind(
        "look", LookFact, NewLook, gate=lambda facts, new, _m: charge_gates.look(facts, new),
        fits=lambda facts, fact, _b: charge_gates.runs(facts, fact.charge), refs=("charge",), against=taking_back.nothing,
    ),
    Kind(
        "charge_stop", StopFact, NewStop, gate=lambda facts, new, _m: charge_gates.driven(facts, new.charge),
        fits=lambda facts, fact, _b: charge_gates.driven(facts, fact.charge), refs=("charge",), closed=True,
    ),
    Kind(
        "wait", WaitFact, NewWait, gate=lambda facts, new, _m: gates.wait(facts, new), make=recording.waits,
        fits=lambda facts, fact, _b: gates.group_there(facts, fact.group), against=taking_back.nothing,
        path="waits", says="Begin to wait for a capacity test, or for a watch on self-discharge.",
    ),
    Kind(
        "wait_over", WaitOverFact, WaitOver, gate=lambda facts, new, _m: gates.wait_over(facts, new),
        fits=lambda facts, fact, _b: gates.wait_over(facts, fact), refs=("wait",), closed=True, against=taking_back.nothing,
        path="waits/over", says="Say that a wait is over.",
    ),
    Kind(
        "work", WorkFact, NewWork, gate=lambda facts, new, _m: gates.done(facts, new), make=recording.worked,
        fits=lambda facts, fact, _b: gates.done_there(facts, fact), refs=("photo",), against=taking_back.nothing,
        path="work", says="Record what was done to the pack, where, and by whom; what it may have changed is asked for again.",
    ),
    Kind(
        "note", NoteFact, NewNote, gate=lambda facts, new, _m: gates.note(facts, new),
        fits=lambda facts, fact, _b: gates.noted(facts, fact), closed=True, against=taking_back.harmless,
        path="notes", says="Note what was told or seen.",
    ),
    Kind(
        "try", TryFact, NewTry, gate=lambda facts, new, _m: gates.tried(facts, new), make=recording.tried,
        fits=lambda facts, fact, _b: gates.there(facts, sites(fact.evidence)), against=taking_back.nothing,
        path="tries", says="Record what was tried, and what came of it.",
    ),
    Kind(
        "ruling", RulingFact, NewRuling, gate=lambda facts, new, _m: gates.ruling(facts, new),
        fits=lambda facts, fact, _b: gates.there(facts, At(groups=fact.groups)), closed=True, against=taking_back.nothing,
        path="rulings", says="Say what the cause is: over the judgement's head with a reason, or confirmed by the repair.",
    ),
    Kind(
        "lead", LeadFact, NewLead, gate=lambda facts, new, _m: gates.lead(facts, new), against=taking_back.nothing,
        path="leads", says="Note what a loose lead reads against the reference lead, or take it off the list.",
    ),
    Kind(
        "joined", JoinFact, NewJoin, gate=lambda facts, new, m: gates.join(facts, new, m.policy),
        against=taking_back.last_of_all,
        path="leads/joined",
        says="Note that a lead was joined to its pin, with what the pin then reads; a wrong value stops the joining.",
    ),
    Kind("photo", PhotoFact, fits=lambda facts, _fact, _b: gates.photo(facts), against=taking_back.nothing),
    Kind(
        "pin", PinFact, NewPin, gate=lambda facts, new, _m: gates.pin(facts, new),
        fits=lambda facts, fact, _b: gates.pin_there(facts, fact), refs=("photo",),
        against=taking_back.nothing, path="pins", says="Put a pin on a photo, move it, or take it off.",
    ),
    Kind(
        "measure", MeasureFact, NewMeasure, gate=lambda facts, new, m: gates.measure(facts, new, lost_of(facts, m.policy)), make=recording.measure,
        told=lambda fact: fact.measure,
        against=taking_back.nothing, path="measures",
        says="Keep a measure: ACIR, a logged step, a sensor, the power path, capacity, a wiggle test.",
    ),
    Kind(
        "replaced", ReplacedFact, ReplacedGroup, gate=lambda facts, new, _m: gates.replaced(facts, new), make=recording.replaced,
        fits=lambda facts, fact, _b: gates.group_there(facts, fact.group), against=taking_back.unrested,
        path="replaced", says="Record that the cells of a group were replaced.",
    ),
    Kind(
        "cells_in", CellsInFact, NewCellsIn, gate=lambda facts, new, _m: gates.cells_in(facts, new), make=recording.cells_in,
        fits=_fits_cells_in, told=lambda fact: NewCellsIn.model_construct(groups=[put.group for put in fact.fitted], by=fact.by, note=fact.note), against=taking_back.unrested,
        path="cells-in", says="Record that the cells of groups are in: by name, those put aside for them, or cells that no drawer knows.",
    ),
    Kind(
        "left_out", LeftOutFact, NewLeftOut, gate=lambda facts, new, _m: gates.left_out(facts, new),
        fits=lambda facts, fact, _b: gates.left_out_there(facts, fact.group), against=taking_back.unrested,
        path="left-out", says="Record that a group was left out of the string, why, and with whom it was agreed.",
    ),
    Kind(
        "board", BoardFact, NewBoard, gate=lambda facts, _new, _m: gates.work(facts), against=taking_back.nothing,
        path="board", says="Say which board is in the pack now: its own, one of another make with what that lacks, or none.",
    ),
    Kind(
        "need", NeedFact, NewNeed, gate=lambda facts, new, _m: plan_gates.told(facts, new), closed=True, against=taking_back.nothing,
        path="need", says="Tell what the device wants and what things cost for this pack.",
    ),
    Kind(
        "accepted", AcceptedFact, NewAccepted, gate=lambda facts, new, _m: plan_gates.accepted(facts, new), make=recording.accepted, closed=True,
        fits=_fits_accepted, against=taking_back.nothing,
        path="accepted", says="Record which option the customer took.",
    ),
    Kind(
        "harvested", HarvestedFact, NewHarvest, gate=lambda facts, new, m: plan_gates.harvest(facts, new, m.policy),
        make=recording.harvest, fits=lambda facts, fact, _b: plan_gates.harvested_there(facts, fact),
        path="harvested", says="Cut groups out as donors: their cells go into the drawer with their history.",
    ),
    Kind(
        "block", BlockFact, NewBlock, gate=lambda facts, new, _m: block_gates.block(facts, new), against=taking_back.nothing,
        fits=lambda facts, fact, _b: block_gates.block_there(facts, fact),
        path="block", says="Tell how the cells of the block stand, and of what its strips are.",
    ),
    Kind(
        "polarity", PolarityFact, NewPolarity, gate=lambda facts, new, m: block_gates.polarity(facts, new, m.policy),
        against=taking_back.nothing, path="polarity", says="Note what a cell reads in its place, red on the pole that lies up.",
    ),
    Kind(
        "tick", TickFact, NewTick, gate=lambda facts, new, m: block_gates.tick(facts, new, m.policy, m.at, m.clock, m.last_coupon),
        make=recording.ticked, fits=_fits_tick, told=_tick_told, against=taking_back.unrested,
        path="ticks", says="Tick off a step of a work list in its order, with the reading it asks for; a wrong one stops the list.",
    ),
    Kind(
        "wiring", WiringFact, NewWiring, gate=lambda facts, new, _m: block_gates.wiring(facts, new), against=taking_back.nothing,
        fits=lambda facts, fact, _b: block_gates.wiring_there(facts, fact),
        path="wiring", says="Tell which wire of each connector goes where, and how another board expects them.",
    ),
    Kind(
        "pin_read", PinReadFact, NewPinRead, gate=lambda facts, new, m: block_gates.pin_read(facts, new, m.policy),
        against=taking_back.nothing, path="pin-reads", says="Note what a pin of a connector reads against pack minus.",
    ),
    Kind("virtual_pack", VirtualPackFact, PackSpec, gate=lambda facts, _new, _m: gates.not_signed(facts),
        make=lambda _facts, new, m: [VirtualPackFact(spec=new, at=m.at)], told=lambda fact: fact.spec, closed=True,
    ),
    Kind(
        "taken_back", TakenBackFact, TakenBack,
        gate=lambda facts, new, _m: gates.take_back(facts, new, _against),
        fits=lambda facts, fact, _b: gates.take_back(facts, fact, _against), refs=("fact",), closed=True, signed=True,
        path="taken-back", says="Take back a fact that was wrong, with the reason; it stays on record.",
    ),
    Kind("sign_off", SignOffFact, NewSignOff, gate=_sign_off_gate, make=_signed, fits=_sign_off_fits,
        path="sign-off", says="Sign the job off: inputs, results and program version are frozen.", creates=False,
    ),
    Kind(
        "reopened", ReopenedFact, NewReopening, gate=lambda facts, _new, _m: gates.reopening(facts),
        fits=lambda facts, _fact, _b: gates.reopening(facts), closed=True, signed=True, against=taking_back.last_of_all,
        path="reopened", says="Open a signed job again as a new part, with the reason; what was signed stays as it was.",
    ),
    Kind(
        "archived", ArchivedFact, NewArchive, gate=lambda facts, _new, _m: gates.archiving(facts),
        fits=lambda facts, _fact, _b: gates.archiving(facts), closed=True, signed=True, against=taking_back.nothing,
        path="archived", says="Put the job in the archive; the next thing recorded of it brings it back.",
    ),
    Kind("clock_jumped", ClockJumpedFact, ClockJumped, closed=True),
    Kind("meter", MeterFact, Meter, of="shop"),
    Kind("policy", PolicyFact, NewPolicy, of="shop"),
    Kind("channel", ChannelFact, ShopChannel, of="shop", gate=shop_gates.channel_driven, refs=("instrument",)),
    Kind("channel_gone", ChannelGone, NoChannel, of="shop", gate=shop_gates.channel_there),
    Kind("coupon", CouponFact, NewCoupon, of="shop"),
    Kind("clock_moved", ClockMovedFact, ClockMoved, of="shop"),
    Kind("prices", PricesFact, ShopPrices, of="shop"),
    Kind("reference", ReferenceEntered, NewReference, of="shop"),
    Kind("reference_check", ReferenceChecked, ReferenceCheck, of="shop", gate=shop_gates.reference_there, refs=("reference",)),
    Kind("blink", BlinkFact, NewBlink, of="shop"),
    Kind("instrument", InstrumentEntered, NewInstrument, of="shop", gate=shop_gates.can_drive),
    Kind("instrument_removed", InstrumentRemoved, Removal, of="shop", gate=shop_gates.removal, refs=("instrument",)),
    Kind("instrument_use", InstrumentUsed, InstrumentUse, of="shop", gate=shop_gates.use, refs=("instrument",)),
    Kind("instrument_check", InstrumentChecked, InstrumentCheck, of="shop", gate=shop_gates.instrument_there, refs=("instrument",)),
)  # fmt: skip

BY_NAME = {kind.name: kind for kind in KINDS}
BY_FACT = {kind.fact: kind for kind in KINDS}
AGAINST: dict[type[Fact], taking_back.Against] = {kind.fact: kind.against for kind in KINDS if kind.against is not None}


def _classes(sent: Any) -> Iterable[type]:
    if isinstance(sent, type):
        return [sent]
    union = get_args(sent)[0] if get_origin(sent) is not None else sent
    return get_args(union) or get_args(get_args(sent)[0])


BY_SENT: dict[type, Kind] = {cls: kind for kind in KINDS if kind.sent is not None for cls in _classes(kind.sent)}


def kind_of(new: object) -> Kind:
    """The kind that is recorded for a sent value."""
    return BY_SENT[type(new)]


BASE = frozenset(Fact.model_fields)


def body_of(fact: Fact) -> dict[str, Any]:
    """What a fact says, without its number and time."""
    return fact.model_dump(mode="json", exclude=set(BASE))


def written(fact: Fact) -> dict[str, Any]:
    """A fact as it stands in a file: its kind, its number and time, and what it says."""
    if isinstance(fact, UnreadFact):
        return fact.model_dump(mode="json")
    name = BY_FACT[type(fact)].name
    return {"kind": name, **fact.model_dump(mode="json", include=set(BASE)), "body": body_of(fact)}


def read(name: str, number: int, at: datetime | str, clock_s: float | None, body: dict[str, Any]) -> Fact:
    """A fact from what is written of it. Raises Impossible for a kind there is none of, ValidationError."""
    kind = BY_NAME.get(name)
    if kind is None:
        raise Impossible("kind", f"there is no kind of fact {name[:40]}")
    return kind.fact.model_validate({**body, "id": number, "at": at, "clock_s": clock_s})


def renumbered(fact: Fact, numbers: Mapping[int, int], number: int) -> Fact:
    """A fact under another number, with what it refers to under theirs."""
    refs = {ref: numbers.get(old, old) for ref in BY_FACT[type(fact)].refs if (old := getattr(fact, ref)) is not None}
    return fact.model_copy(update={**refs, "id": number})

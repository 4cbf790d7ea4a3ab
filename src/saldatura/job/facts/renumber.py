"""A fact as it reads of the pack as it now is: its groups and taps by today's numbers, without what is of cells that are gone.

What is recorded stays as it was said; only what speaks of the pack that stands is read through here.
"""

from collections.abc import Callable, Sequence
from typing import Any

from saldatura.battery.join.wiring import Connector, PinWire
from saldatura.battery.measures.evidence import Action, At, Seen, Temperature, sites
from saldatura.battery.pack.faults import ContactFault, Fault, SensorFault, WireFault
from saldatura.job.facts.becoming import CellsInFact
from saldatura.job.facts.block import BlockFact, PinReadFact, PolarityFact, TickFact, WiringFact
from saldatura.job.facts.charge import ChargeBegun, LookFact
from saldatura.job.facts.intake import IntakeFact, ReleaseFact
from saldatura.job.facts.leads import JoinFact, LeadFact
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.facts.photo import PinFact, TapPlace
from saldatura.job.facts.planned import AcceptedFact, HarvestedFact
from saldatura.job.facts.reading import ReadingFact, SetFact
from saldatura.job.facts.ruling import RulingFact
from saldatura.job.facts.sign_off import ReplacedFact, VirtualPackFact
from saldatura.job.facts.structure import Structure
from saldatura.job.facts.told import NoteFact, TryFact
from saldatura.job.facts.wait import WaitFact
from saldatura.job.facts.work import GroupPlace, WorkFact
from saldatura.ledger.fact import Fact

Reads = Callable[[Any, Structure], Fact | None]


def read_now(fact: Fact, of: Structure) -> Fact | None:
    """The fact as it reads of the pack of that structure; None where it says nothing of it."""
    reads = _READS.get(type(fact))
    return fact if reads is None else reads(fact, of)


def _with(fact: Fact, **changed: Any) -> Fact:
    if all(getattr(fact, name) == value for name, value in changed.items()):
        return fact
    return fact.model_copy(update=changed)


def _intake(fact: IntakeFact, of: Structure) -> Fact:
    taps = sorted({tap for told in fact.outside_taps if (tap := of.tap(told, fact.id)) <= of.series})
    rated_ah = of.rated_ah or fact.pack.rated_ah
    return _with(fact, pack=fact.pack.model_copy(update={"series": of.series, "rated_ah": rated_ah}), outside_taps=taps)


def _since_it_stands(fact: Fact, of: Structure) -> Fact | None:
    """What is of the string as it stood before its last change says nothing of it now."""
    return fact if fact.id > of.began else None


def _since_renumbered(fact: Fact, of: Structure) -> Fact | None:
    return fact if not of.shifts or fact.id > of.shifts[-1].fact else None


def _of_cells(fact: ChargeBegun | WaitFact, of: Structure) -> Fact | None:
    """Of a group whose cells are still there; a wait of the whole string ends with that string."""
    if fact.group is None:
        return _since_it_stands(fact, of)
    now = of.holds(fact.group, fact.id)
    return None if now is None else _with(fact, group=now)


def _look(fact: LookFact, of: Structure) -> Fact:
    held = [(other, of.holds(other.group, fact.id)) for other in fact.others]
    return _with(fact, others=[o.model_copy(update={"group": now}) for o, now in held if now is not None])


def _measure(fact: MeasureFact, of: Structure) -> Fact | None:
    about = fact.measure.about
    if about is None:
        return _since_it_stands(fact, of) if fact.measure.of_string else fact
    now = of.holds(about, fact.id)
    return None if now is None else _with(fact, measure=fact.measure.renumbered(now))


def _work(fact: WorkFact, of: Structure) -> Fact | None:
    if isinstance(fact.place, GroupPlace):
        now = of.group(fact.place.group, fact.id)
        return None if now is None else _with(fact, place=fact.place.model_copy(update={"group": now}))
    if isinstance(fact.place, TapPlace):
        return _with(fact, place=fact.place.model_copy(update={"tap": of.tap(fact.place.tap, fact.id)}))
    return fact


def _evidence(told: Sequence[Any], of: Structure, said: int) -> list[Any]:
    """Evidence by today's numbers; what was of cells that are gone is left out."""
    found: list[Any] = []
    for one in told:
        if isinstance(one, Seen | Action):
            at = _at(sites(one), of, said)
            if at is not None:
                found.append(one if at == one.at else one.model_copy(update={"at": at}))
        elif isinstance(one, Temperature) and one.group is not None:
            now = of.holds(one.group, said)
            if now is not None:
                found.append(one.model_copy(update={"group": now}))
        else:
            found.append(one)
    return found


def _at(at: At, of: Structure, said: int) -> At | None:
    held = [now for group in at.groups if (now := of.holds(group, said)) is not None]
    if at.groups and not held:
        return None
    return at.model_copy(update={"groups": held, "taps": sorted({of.tap(tap, said) for tap in at.taps})})


def _note(fact: NoteFact, of: Structure) -> Fact:
    return _with(fact, evidence=_evidence(fact.evidence, of, fact.id))


def _try(fact: TryFact, of: Structure) -> Fact | None:
    held = _evidence([fact.evidence], of, fact.id)
    return _with(fact, evidence=held[0]) if held else None


def _groups(numbers: Sequence[int], of: Structure, said: int) -> list[int]:
    return [now for group in numbers if (now := of.group(group, said)) is not None]


def _named(fact: RulingFact | AcceptedFact | ReleaseFact, of: Structure) -> Fact:
    return _with(fact, groups=_groups(fact.groups, of, fact.id))


def _replaced(fact: ReplacedFact, of: Structure) -> Fact | None:
    now = of.group(fact.group, fact.id)
    return _with(fact, group=now) if now is not None and of.seats[now - 1].since == fact.id else None


def _cells_in(fact: CellsInFact, of: Structure) -> Fact | None:
    held = [(put, of.group(put.group, fact.id)) for put in fact.fitted]
    fitted = [
        put.model_copy(update={"group": now})
        for put, now in held
        if now is not None and of.seats[now - 1].since == fact.id
    ]
    return _with(fact, fitted=fitted) if fitted else None


def _harvested(fact: HarvestedFact, of: Structure) -> Fact | None:
    groups = [g for g in _groups(fact.groups, of, fact.id) if of.seats[g - 1].cut_out == fact.id]
    return _with(fact, groups=groups) if groups else None


def _block(fact: BlockFact, of: Structure) -> Fact:
    if not of.shifts or fact.id > of.shifts[-1].fact:
        return fact
    placed = [(cell, None if cell.group is None else of.group(cell.group, fact.id)) for cell in fact.cells]
    cells = [c.model_copy(update={"group": now}) for c, now in placed if now is not None]
    kept = {c.cell for c in cells}
    sensors = [s for s in fact.sensors if not fact.cells or set(s.between) <= kept]
    # What was to be done is done; strips that were laid for another string are laid anew.
    return _with(fact, cells=cells, strips=[], sensors=sensors if fact.cells else [], work=None, work_groups=[])


def _wiring(fact: WiringFact, of: Structure) -> Fact:
    connectors = list(fact.connectors)
    for shift in of.shifts:
        if shift.fact > fact.id:
            connectors = [_pinned_without(c, shift.at) for c in connectors]
    return fact if connectors == fact.connectors else _with(fact, connectors=connectors, other=None)


def _pinned_without(connector: Connector, group: int) -> Connector:
    """A connector once the wire of a group that was left out is out of it: every wire above sits one pin lower."""
    taps = sorted((p for p in connector.pins if p.tap is not None), key=lambda p: p.pin)
    # Of the two taps of the group one wire stays, that of the tap that other cells hang on.
    gone = 0 if group == 1 else group
    wires = [p.wire for p in sorted(taps, key=lambda p: p.tap or 0) if p.tap != gone]
    moved = {
        p.pin: PinWire(pin=p.pin, tap=k, wire=wires[k]) if k < len(wires) else PinWire(pin=p.pin)
        for k, p in enumerate(taps)
    }
    return Connector(name=connector.name, pins=[moved.get(p.pin, p) for p in connector.pins])


def _pin(fact: PinFact, of: Structure) -> Fact:
    if not isinstance(fact.place, TapPlace):
        return fact
    return _with(fact, place=fact.place.model_copy(update={"tap": of.tap(fact.place.tap, fact.id)}))


def _virtual(fact: VirtualPackFact, of: Structure) -> Fact:
    """The simulated pack as it stands: the charge of the groups that are left, and the faults of what is still in it."""
    spec, soc = fact.spec, list(fact.spec.soc)
    for shift in of.shifts:
        if shift.fact > fact.id and 1 < len(soc) >= shift.at:
            del soc[shift.at - 1]
    faults = [kept for fault in spec.faults if (kept := _fault(fault, of, fact.id)) is not None]
    loose = {name: of.tap(tap, fact.id) for name, tap in spec.loose.items()}
    return _with(fact, spec=spec.model_copy(update={"soc": soc, "faults": faults, "loose": loose}))


def _fault(fault: Fault, of: Structure, said: int) -> Fault | None:
    if isinstance(fault, WireFault):
        ends = {"tap": of.tap(fault.tap, said), "other": None if fault.other is None else of.tap(fault.other, said)}
        return None if ends["tap"] == ends["other"] else fault.model_copy(update=ends)
    if isinstance(fault, SensorFault) or fault.group is None:
        return fault
    group = of.group(fault.group, said) if isinstance(fault, ContactFault) else of.holds(fault.group, said)
    return None if group is None else fault.model_copy(update={"group": group})


_READS: dict[type[Fact], Reads] = {
    IntakeFact: _intake, ChargeBegun: _of_cells, WaitFact: _of_cells, LookFact: _look, MeasureFact: _measure,
    WorkFact: _work, NoteFact: _note, TryFact: _try, RulingFact: _named, AcceptedFact: _named, ReleaseFact: _named, ReplacedFact: _replaced,
    CellsInFact: _cells_in, HarvestedFact: _harvested, BlockFact: _block, PolarityFact: _since_renumbered, TickFact: _since_renumbered,
    WiringFact: _wiring, PinReadFact: _since_it_stands, PinFact: _pin, LeadFact: _since_renumbered, JoinFact: _since_renumbered,
    ReadingFact: _since_it_stands, VirtualPackFact: _virtual,
}  # fmt: skip


def sets_now(sets: Sequence[SetFact], readings: Sequence[ReadingFact], of: Structure) -> list[SetFact]:
    """Sets that say something of the string as it stands: begun since its last change, or read on in since."""
    read = {r.set_id for r in readings if r.id > of.began}
    return [s for s in sets if s.id > of.began or s.id in read]

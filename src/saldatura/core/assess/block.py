"""A job's block: its map, its strips solved and compared, the polarity run, the order of work, the wiring; from its facts."""

import math
from collections.abc import Iterable, Mapping, Sequence

from saldatura.core.assess.groups import groups_now
from saldatura.core.assess.sets import assess_set
from saldatura.core.cell import usual_resistance_ohm
from saldatura.core.chemistry import WINDOWS
from saldatura.core.errors import Impossible
from saldatura.core.facts import JobFacts
from saldatura.core.facts.block import BlockFact, NewBlock, PolarityFact, Strip, TickFact
from saldatura.core.join.network import (
    Interconnect,
    InterconnectRequest,
    Material,
    NetCell,
    Segment,
    TakeOff,
    interconnect,
)
from saldatura.core.join.order import Joint, TakeDown, TakeDownRequest, take_down
from saldatura.core.join.pack_map import Link, MappedCell, PackMap, PackMapRequest, mirrored, pack_map, pieces
from saldatura.core.policy import Policy
from saldatura.core.quantities import Value, volts_words

COMPARED: tuple[tuple[Material, int], ...] = (
    ("nickel", 1), ("nickel", 2), ("plated_steel", 1), ("plated_steel", 2), ("copper", 1),
)  # fmt: skip
MATERIAL_WORDS: dict[Material, str] = {
    "nickel": "nickel", "plated_steel": "plated steel", "copper": "copper", "aluminium": "aluminium", "brass": "brass",
}  # fmt: skip
# A cell that reads less than this in its place is no cell, or not reached.
LEAST_V = 0.3
MOST_SOLVED = 400


class StripChoice(Value):
    """One way of making the strips, and what it comes to at the load."""

    material: Material
    layers: int
    take_off: str
    says: str
    worst_rise_k: float
    drop_mv: float
    largest_share: float
    links_w: float
    enough: bool
    chosen: bool


class CellPolarity(Value):
    """A cell in its place: the pole that must lie up, what it read, and whether it stands right; None: not read yet."""

    cell: str
    group: int
    expects: str
    volts: float | None
    right: bool | None


class WireRow(Value):
    """A pin of the balance connector: the tap it belongs to, the volts to expect against pin 0, and within how much."""

    pin: int
    tap: int
    expected_v: float | None
    within_v: float
    says: str


class ListedStep(Value):
    """A step of the work list, and whether it is done."""

    joint: str
    do: str
    exposed_v: float
    insulate: list[str]
    because: str
    done: bool


class WorkList(Value):
    """The steps in their order; `next`: the first that is not done."""

    steps: list[ListedStep]
    peak_v: float
    next: str | None


class Block(Value):
    """Everything that is computed of a job's block. `stop`: why nothing is welded as it stands."""

    told: NewBlock
    map: PackMap
    below: list[MappedCell]
    strips: Interconnect | None
    choices: list[StripChoice]
    load_a: float
    polarity: list[CellPolarity]
    stop: str | None
    down: WorkList
    up: WorkList
    wiring: list[WireRow]


def block_of(facts: JobFacts, policy: Policy) -> Block:
    """A job's block. Raises Impossible for a map that cannot be."""
    told = facts.of(BlockFact)[-1] if facts.of(BlockFact) else NewBlock(pitch_mm=None)
    pack = facts.intake.pack
    made = pack_map(map_request(facts, told))
    load = _load(facts)
    ohms, volts = _groups(facts, policy)
    # A wall of cells is mapped, and not solved while somebody waits for the page.
    solved = len(made.cells) <= MOST_SOLVED
    strips = _solved(made, told.strip, ohms, volts, load, pack.parallel) if solved else None
    polarity = _polarity(made, facts.of(PolarityFact))
    return Block(
        told=NewBlock(**{name: getattr(told, name) for name in NewBlock.model_fields}),
        map=made,
        below=mirrored(made.cells),
        strips=strips,
        choices=list(_choices(made, told.strip, ohms, volts, load, pack.parallel)) if solved else [],
        load_a=load,
        polarity=polarity,
        stop=_stop(polarity),
        down=_work(facts, "open", volts),
        up=_work(facts, "close", volts),
        wiring=_wiring(facts, policy, volts),
    )


def _load(facts: JobFacts) -> float:
    """The load that lasts, as told in Plan, else at the counter, else 1 C."""
    told, pack = facts.told, facts.intake.pack
    return told.need.load_a if told and told.need.load_a else pack.load_a or pack.rated_ah


def map_request(facts: JobFacts, told: NewBlock) -> PackMapRequest:
    """A block as its map is asked for."""
    pack = facts.intake.pack
    said = {
        name: getattr(told, name)
        for name in ("arrangement", "columns", "diameter_mm", "pitch_mm", "cells", "looked_from")
    }
    return PackMapRequest(series=pack.series, parallel=pack.parallel, **said)


def _groups(facts: JobFacts, policy: Policy) -> tuple[list[float], list[float]]:
    """Resistance of a cell and voltage of each group: as measured, else usual and nominal."""
    pack = facts.intake.pack
    usual = usual_resistance_ohm(pack.chemistry, pack.rated_ah) * pack.parallel
    nominal = WINDOWS[pack.chemistry].nominal_v
    now = groups_now(facts, assess_set(facts, "probe", policy), policy)
    ohms = [g.resistance_ohm.value * pack.parallel if g.resistance_ohm else usual for g in now]
    return ohms, [g.volts if g.volts is not None and not g.wants_cells and g.volts > 0 else nominal for g in now]


def segments_of(made: PackMap, strip: Strip) -> list[Segment]:
    """The strips in pieces: as each link is laid, pole to pole."""
    place = {c.cell: (c.x_mm, c.y_mm) for c in made.cells}
    top = {c.cell: c.top for c in made.cells}
    found = []
    for link in made.links:
        for a, b in pieces(link, place):
            found.append(
                Segment(
                    segment=f"{link.link} {a} to {b}", from_=_node(a, link, top), to=_node(b, link, top), material=strip.material,
                    width_mm=strip.width_mm, thickness_mm=strip.thickness_mm, layers=strip.layers, length_mm=max(math.dist(place[a], place[b]), 0.1),
                )
            )  # fmt: skip
    return found


def _node(cell: str, link: Link, top: Mapping[str, str]) -> str:
    positive = (top[cell] == "positive") == (link.side == "top")
    return f"{cell}{'+' if positive else '-'}"


def network_of(facts: JobFacts, policy: Policy) -> InterconnectRequest:
    """The strips of a job's block as a network. Raises Impossible where there is none."""
    told = facts.of(BlockFact)[-1] if facts.of(BlockFact) else NewBlock()
    ohms, volts = _groups(facts, policy)
    found = _network(
        pack_map(map_request(facts, told)), told.strip, ohms, volts, _load(facts), facts.intake.pack.parallel
    )
    if found is None:
        raise Impossible("block", "a single cell has no strips to solve")
    return found


def _solved(
    made: PackMap, strip: Strip, ohms: Sequence[float], volts: Sequence[float], load: float, parallel: int
) -> Interconnect | None:
    """The strips under the load; None where no strip is needed at all."""
    request = _network(made, strip, ohms, volts, load, parallel)
    return None if request is None else interconnect(request)


def _network(
    made: PackMap, strip: Strip, ohms: Sequence[float], volts: Sequence[float], load: float, parallel: int
) -> InterconnectRequest | None:
    laid = segments_of(made, strip)
    if not laid:
        return None
    ends = {tap: next(link for link in made.links if link.tap == tap).cells for tap in (0, len(made.links) - 1)}
    at = 0 if strip.take_off == "end" else parallel // 2
    minus, plus = f"{ends[0][min(at, len(ends[0]) - 1)]}-", f"{ends[len(made.links) - 1][min(at, parallel - 1)]}+"
    reached = {n for s in laid for n in (s.from_, s.to)}
    # A single cell in parallel needs no strip at its ends; its lead is soldered to a short piece.
    for node in (minus, plus, *(f"{c.cell}{pole}" for c in made.cells for pole in "+-")):
        if node not in reached:
            short = {
                "width_mm": strip.width_mm,
                "thickness_mm": strip.thickness_mm,
                "layers": strip.layers,
                "length_mm": 10.0,
                "material": strip.material,
            }
            laid.append(
                Segment.model_validate({"segment": f"tag of {node}", "from": node, "to": f"lead {node}", **short})
            )
            reached.add(node)
    cells = [NetCell(cell=c.cell, volts=volts[c.group - 1], resistance_ohm=ohms[c.group - 1]) for c in made.cells]
    return InterconnectRequest(
        cells=cells, segments=laid, take_off=TakeOff(positive=plus, negative=minus), current_a=load
    )


def _choices(
    made: PackMap, strip: Strip, ohms: Sequence[float], volts: Sequence[float], load: float, parallel: int
) -> Iterable[StripChoice]:
    """The usual ways of making the strips side by side, and the one that is told."""
    wanted = dict.fromkeys(
        [(strip.material, strip.layers, strip.take_off), *((m, n, strip.take_off) for m, n in COMPARED)]
    )
    if parallel > 2:
        wanted[strip.material, strip.layers, "middle" if strip.take_off == "end" else "end"] = None
    open_v = sum(volts)
    for material, layers, take_off in wanted:
        made_of = strip.model_copy(update={"material": material, "layers": layers, "take_off": take_off})
        found = _solved(made, made_of, ohms, volts, load, parallel)
        if found is None:
            return
        inside = sum(ohms) / parallel * load
        yield StripChoice(
            material=material,
            layers=layers,
            take_off=take_off,
            says=f"{MATERIAL_WORDS[material]}, {layers} layer{'s' if layers > 1 else ''}, taken off at the {take_off}",
            worst_rise_k=round(max(s.rise_k for s in found.segments), 2),
            drop_mv=round((open_v - inside - found.terminal_v) * 1000, 2),
            largest_share=round(max(c.share for c in found.cells), 4),
            links_w=round(found.links_w, 4),
            enough=found.enough,
            chosen=(material, layers, take_off) == (strip.material, strip.layers, strip.take_off),
        )


def _polarity(made: PackMap, read: Sequence[PolarityFact]) -> list[CellPolarity]:
    last = {fact.cell: fact.volts for fact in read}
    return [
        CellPolarity(
            cell=c.cell, group=c.group, expects=c.top, volts=last.get(c.cell),
            right=None if c.cell not in last else _right(c.top, last[c.cell]),
        )
        for c in made.cells
    ]  # fmt: skip


def _right(top: str, volts: float) -> bool:
    """Red on the upper pole: a plus that lies up reads positive."""
    return volts > LEAST_V if top == "positive" else volts < -LEAST_V


def _stop(polarity: Sequence[CellPolarity]) -> str | None:
    wrong = [c for c in polarity if c.right is False]
    if wrong:
        first = wrong[0]
        what = "is flat or not reached" if abs(first.volts or 0) <= LEAST_V else "stands the wrong way round"
        return f"Cell {first.cell} {what}: {volts_words(first.volts or 0.0)} with {first.expects} to lie up. Nothing is welded before it is right."
    unread = sum(c.right is None for c in polarity)
    return (
        f"{unread} cell{'s are' if unread > 1 else ' is'} not read in place yet; each is, before the first weld."
        if unread
        else None
    )


def _work(facts: JobFacts, aim: str, volts: Sequence[float]) -> WorkList:
    """The order of cutting or joining, with what is ticked off."""
    series = facts.intake.pack.series
    joints = [Joint(joint=f"strip {tap}", tap=tap, kind="link") for tap in range(1, series)]
    joints += [Joint(joint="main lead −", tap=0, kind="lead"), Joint(joint="main lead +", tap=series, kind="lead")]
    joints += [Joint(joint=f"balance wire {tap}", tap=tap, kind="sense") for tap in range(series + 1)]
    found: TakeDown = take_down(
        TakeDownRequest(series=series, group_v=max(volts), joints=joints, aim="open" if aim == "open" else "close")
    )
    done = {fact.joint for fact in facts.of(TickFact) if fact.list == aim}
    steps = [
        ListedStep(
            joint=s.joint, do=s.do, exposed_v=s.exposed_v, insulate=s.insulate, because=s.because, done=s.joint in done
        )
        for s in found.steps
    ]
    return WorkList(steps=steps, peak_v=found.peak_v, next=next((s.joint for s in steps if not s.done), None))


def _wiring(facts: JobFacts, policy: Policy, volts: Sequence[float]) -> list[WireRow]:
    """Each pin of the balance connector with the voltage to expect there."""
    rows, total = [], 0.0
    for tap in range(facts.intake.pack.series + 1):
        rows.append(
            WireRow(
                pin=tap,
                tap=tap,
                expected_v=round(total, 3),
                within_v=policy.pin_v * max(tap, 1),
                says="pack minus" if tap == 0 else f"plus of group {tap}",
            )
        )
        if tap < len(volts):
            total += volts[tap]
    return rows

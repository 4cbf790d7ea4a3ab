"""A job's block: its map, its strips solved and compared, the polarity run, the order of work, the wiring; from its facts."""

import itertools
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from pydantic import ValidationError

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, field_lines
from saldatura.battery.join import checks
from saldatura.battery.join.checks import Piece
from saldatura.battery.join.laid import LaidStrip
from saldatura.battery.join.net_types import Interconnect, InterconnectRequest, Material, NetCell, Segment, TakeOff
from saldatura.battery.join.network import interconnect
from saldatura.battery.join.pack_map import MappedCell, PackMap, PackMapRequest, Side, mirrored, pack_map, pieces
from saldatura.battery.join.steps import WorkKind
from saldatura.battery.limits.joining import IN_ITS_PLACE_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value, volts_words
from saldatura.job.assessment.block_work import SET_ANEW, WorkList, listed, method_says, work_of
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.wired import Wiring, wiring_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import BlockFact, NewBlock, PolarityFact
from saldatura.job.facts.photo import SensorPlace, TapPlace, pinned

COMPARED: tuple[tuple[Material, int], ...] = (
    ("nickel", 1), ("nickel", 2), ("plated_steel", 1), ("plated_steel", 2), ("copper", 1),
)  # fmt: skip
MATERIAL_WORDS: dict[Material, str] = {
    "nickel": "nickel", "plated_steel": "plated steel", "copper": "copper", "aluminium": "aluminium", "brass": "brass",
}  # fmt: skip
MOST_SOLVED = 400


@dataclass(frozen=True)
class Load:
    """What the strips carry for long, and at the peak, A."""

    lasting_a: float
    peak_a: float | None


class StripChoice(Value):
    """One way of making the strips, and what it comes to at the load."""

    material: Material
    layers: int
    take_off: str
    says: str
    worst_rise_k: float
    peak_rise_k: float | None
    drop_mv: float
    largest_share: float
    links_w: float
    enough: bool
    chosen: bool


class CellPolarity(Value):
    """A cell in its place: the pole that must lie up, what it read, and whether it stands right; None: not read yet. `wanted`: it is
    read before anything is joined.
    """

    cell: str
    group: int
    expects: str
    volts: float | None
    right: bool | None
    wanted: bool


class OldPlace(Value):
    """What a pin on a photo of the opened pack says: a tap, or where a sensor sat."""

    photo: int
    says: str
    tap: int | None
    sensor: str | None


class Block(Value):
    """Everything that is computed of a job's block. `stop`: why nothing is joined as it stands."""

    told: NewBlock
    map: PackMap
    below: list[MappedCell]
    findings: list[str]
    strips: Interconnect | None
    choices: list[StripChoice]
    load_a: float
    peak_a: float | None
    polarity: list[CellPolarity]
    stop: str | None
    method_says: list[str]
    work: WorkKind
    work_groups: list[int]
    lists: list[WorkList]
    lists_stop: str | None
    wiring: Wiring
    old_places: list[OldPlace]


def block_of(facts: JobFacts, policy: Policy) -> Block:
    """A job's block; computed once for each state of its facts. Raises Impossible for a map that cannot be."""
    held = facts.memo.get("block")
    if held is None or held[0] != (facts.last_id, policy):
        held = ((facts.last_id, policy), _block(facts, policy))
        facts.memo["block"] = held
    found: Block = held[1]
    return found


def _block(facts: JobFacts, policy: Policy) -> Block:
    told = facts.of(BlockFact)[-1] if facts.of(BlockFact) else NewBlock(pitch_mm=None)
    pack = facts.intake.pack
    made = pack_map(map_request(facts, told))
    load = _load(facts)
    ohms, volts, unread = _groups(facts, policy)
    # A wall of cells is mapped, and not solved while somebody waits for the page.
    solved = len(made.cells) <= MOST_SOLVED
    strips = _solved(made, told, ohms, volts, load, pack.parallel) if solved else None
    work, groups = work_of(facts, told)
    polarity = _polarity(facts, made, work, groups)
    old = _old_places(facts)
    fresh, in_place = _as_set(volts, polarity, _since_read(facts))
    lists, lists_stop = listed(facts, told, made, work, groups, fresh, policy, unread - in_place)
    return Block(
        told=NewBlock(**{name: getattr(told, name) for name in NewBlock.model_fields}),
        map=made,
        below=mirrored(made.cells),
        findings=[*made.findings, *_checked(told, made, volts, [o.sensor for o in old if o.sensor], policy, solved)],
        strips=strips,
        choices=list(_choices(made, told, ohms, volts, load, pack.parallel)) if solved else [],
        load_a=load.lasting_a,
        peak_a=load.peak_a,
        polarity=polarity,
        stop=_stop(polarity, policy),
        method_says=method_says(told.method),
        work=work,
        work_groups=groups,
        lists=lists,
        lists_stop=lists_stop,
        wiring=wiring_of(facts, policy, fresh, work, lists),
        old_places=old,
    )


def _checked(
    told: NewBlock, made: PackMap, volts: Sequence[float], sensors: Sequence[str], policy: Policy, near: bool
) -> list[str]:
    """What would not be right of the block as it is told, in sentences."""
    spots = {s.sensor: s.between for s in told.sensors}
    known = list(dict.fromkeys([*sensors, *spots]))
    found = checks.sensors(made, spots, known)
    stack = told.arrangement == "stack" and not told.cells
    length = told.cell_mm or checks.cell_length(told.diameter_mm)
    box = [None if b is None else (b.length_mm, b.width_mm, b.height_mm) for b in (told.case, told.board)]
    found += checks.fits(made, (told.strip.thickness_mm, told.strip.layers), length, box[0], box[1], stack)
    if stack:
        return found
    if near:
        laid = laid_pieces(made, told.strips)
        found += checks.gaps(made, laid, told.strip.width_mm, volts, policy.strip_gap_mm, policy.strip_gap_mm_per_v)
        found += checks.over_cans(made, laid, told.diameter_mm, told.strip.width_mm, volts)
    return [*found, checks.rings(made, told.strip.width_mm, volts)]


def _since_read(facts: JobFacts) -> set[str]:
    """Cells read in place since the pack was last charged or a set of readings was begun: later ones tell better."""
    last = max([s.id for s in facts.sets] + [run.end.id for run in facts.charges if run.end is not None], default=0)
    return {fact.cell for fact in facts.of(PolarityFact) if fact.id > last}


def _as_set(
    volts: Sequence[float], polarity: Sequence[CellPolarity], since: set[str]
) -> tuple[list[float], frozenset[int]]:
    """Each group's volts: of cells that were read in their places since, as they read there; else as the pack was read. With the groups
    that were read in place.
    """
    found, in_place = list(volts), set[int]()
    for group in range(1, len(found) + 1):
        held = [c for c in polarity if c.group == group and c.wanted and c.right and c.cell in since]
        read = [abs(c.volts) for c in held if c.volts is not None]
        if read:
            found[group - 1] = round(sum(read) / len(read), 4)
            in_place.add(group)
    return found, frozenset(in_place)


def _old_places(facts: JobFacts) -> list[OldPlace]:
    """Taps and sensors as pinned on the photos of the opened pack."""
    found = []
    for n, shown in enumerate(pinned(facts.photos, facts.pins), start=1):
        for pin in shown.pins:
            if isinstance(pin.place, TapPlace):
                found.append(
                    OldPlace(
                        photo=shown.photo.id, says=f"tap {pin.place.tap} on photo {n}", tap=pin.place.tap, sensor=None
                    )
                )
            elif isinstance(pin.place, SensorPlace):
                found.append(
                    OldPlace(
                        photo=shown.photo.id, says=f"{pin.place.sensor} on photo {n}", tap=None, sensor=pin.place.sensor
                    )
                )
    return found


def _load(facts: JobFacts) -> Load:
    """The load that lasts, as told in Plan, else at the counter, else 1 C; and the peak, where one is told."""
    told, pack = facts.told, facts.intake.pack
    lasting = told.need.load_a if told and told.need.load_a else pack.load_a or pack.rated_ah
    return Load(lasting, told.need.peak_a if told else None)


def map_request(facts: JobFacts, told: NewBlock) -> PackMapRequest:
    """A block as its map is asked for. Raises Impossible for cells that would stand in each other."""
    pack = facts.intake.pack
    said = {
        name: getattr(told, name)
        for name in ("arrangement", "columns", "diameter_mm", "pitch_mm", "cells", "looked_from", "strips")
    }
    try:
        return PackMapRequest(series=pack.series, parallel=pack.parallel, **said)
    except ValidationError as error:
        raise Impossible(*field_lines(error.errors())[0]) from error


def _groups(facts: JobFacts, policy: Policy) -> tuple[list[float], list[float], frozenset[int]]:
    """Resistance of a cell and voltage of each group: as measured, else usual and nominal; with the groups that nobody has read."""
    pack = facts.intake.pack
    usual = usual_resistance_ohm(pack.chemistry, pack.rated_ah) * pack.parallel
    nominal = WINDOWS[pack.chemistry].nominal_v
    now = groups_now(facts, assess_set(facts, "probe", policy), policy)
    ohms = [g.resistance_ohm.value * pack.parallel if g.resistance_ohm else usual for g in now]
    volts = [g.volts if g.volts is not None and not g.wants_cells and g.volts > 0 else nominal for g in now]
    return ohms, volts, frozenset(g.group for g in now if g.replaced and (g.volts is None or g.read_in == "drawer"))


def laid_pieces(made: PackMap, strips: Sequence[LaidStrip] = ()) -> list[Piece]:
    """The strips in pieces from cell to cell: as they are told, else as each link is laid."""
    place = {c.cell: (c.x_mm, c.y_mm) for c in made.cells}
    tap = {(link.side, cell): link.tap for link in made.links for cell in link.cells}
    if strips:
        steps = [Piece(tap[s.side, a], s.side, a, b) for s in strips for a, b in itertools.pairwise(s.cells)]
        return list(dict.fromkeys(steps))
    return [Piece(link.tap, link.side, a, b) for link in made.links for a, b in pieces(link, place)]


def segments_of(made: PackMap, told: NewBlock) -> list[Segment]:
    """The strips in pieces: as each link is laid, pole to pole."""
    place = {c.cell: (c.x_mm, c.y_mm) for c in made.cells}
    top = {c.cell: c.top for c in made.cells}
    strip = told.strip
    return [
        Segment(
            segment=f"L{p.tap} {p.a} to {p.b}", from_=_node(p.a, p.side, top), to=_node(p.b, p.side, top), material=strip.material,
            width_mm=strip.width_mm, thickness_mm=strip.thickness_mm, layers=strip.layers, length_mm=max(math.dist(place[p.a], place[p.b]), 0.1),
        )
        for p in laid_pieces(made, told.strips)
    ]  # fmt: skip


def _node(cell: str, side: Side, top: Mapping[str, str]) -> str:
    positive = (top[cell] == "positive") == (side == "top")
    return f"{cell}{'+' if positive else '-'}"


def network_of(facts: JobFacts, policy: Policy) -> InterconnectRequest:
    """The strips of a job's block as a network. Raises Impossible where there is none."""
    told = facts.of(BlockFact)[-1] if facts.of(BlockFact) else NewBlock()
    ohms, volts, _ = _groups(facts, policy)
    found = _network(pack_map(map_request(facts, told)), told, ohms, volts, _load(facts), facts.intake.pack.parallel)
    if found is None:
        raise Impossible("block", "a single cell has no strips to solve")
    return found


def _solved(
    made: PackMap, told: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> Interconnect | None:
    """The strips under the load; None where no strip is needed at all."""
    request = _network(made, told, ohms, volts, load, parallel)
    return None if request is None else interconnect(request)


def _network(
    made: PackMap, told: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> InterconnectRequest | None:
    strip, laid = told.strip, segments_of(made, told)
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
        cells=cells,
        segments=laid,
        take_off=TakeOff(positive=plus, negative=minus),
        current_a=load.lasting_a,
        peak_a=load.peak_a,
    )


def _choices(
    made: PackMap, told: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> Iterable[StripChoice]:
    """The usual ways of making the strips side by side, and the one that is told."""
    strip = told.strip
    wanted = dict.fromkeys(
        [(strip.material, strip.layers, strip.take_off), *((m, n, strip.take_off) for m, n in COMPARED)]
    )
    if parallel > 2:
        wanted[strip.material, strip.layers, "middle" if strip.take_off == "end" else "end"] = None
    open_v = sum(volts)
    for material, layers, take_off in wanted:
        made_of = strip.model_copy(update={"material": material, "layers": layers, "take_off": take_off})
        found = _solved(made, told.model_copy(update={"strip": made_of}), ohms, volts, load, parallel)
        if found is None:
            return
        inside = sum(ohms) / parallel * load.lasting_a
        yield StripChoice(
            material=material,
            layers=layers,
            take_off=take_off,
            says=f"{MATERIAL_WORDS[material]}, {layers} layer{'s' if layers > 1 else ''}, taken off at the {take_off}",
            worst_rise_k=round(max(s.over_cell_k for s in found.segments), 2),
            peak_rise_k=round(max(s.peak_rise_k or 0.0 for s in found.segments), 2) if load.peak_a else None,
            drop_mv=round((open_v - inside - found.terminal_v) * 1000, 2),
            largest_share=round(max(c.share for c in found.cells), 4),
            links_w=round(found.links_w, 4),
            enough=found.enough,
            chosen=(material, layers, take_off) == (strip.material, strip.layers, strip.take_off),
        )


def _polarity(facts: JobFacts, made: PackMap, work: WorkKind, groups: Sequence[int]) -> list[CellPolarity]:
    seats, group_of = facts.structure.seats, {c.cell: c.group for c in made.cells}
    # What was read before other cells were put there was of the old ones.
    last = {
        fact.cell: fact.volts
        for fact in facts.of(PolarityFact)
        if fact.cell in group_of and fact.id > seats[group_of[fact.cell] - 1].changed
    }
    return [
        CellPolarity(
            cell=c.cell, group=c.group, expects=c.top, volts=last.get(c.cell),
            right=None if c.cell not in last else _right(c.top, last[c.cell]),
            wanted=work == "rebuild" or (work in SET_ANEW and c.group in groups),
        )
        for c in made.cells
    ]  # fmt: skip


def _right(top: str, volts: float) -> bool:
    """Red on the upper pole: a plus that lies up reads positive."""
    return volts > IN_ITS_PLACE_V if top == "positive" else volts < -IN_ITS_PLACE_V


def _stop(polarity: Sequence[CellPolarity], policy: Policy) -> str | None:
    wrong = next((c for c in polarity if c.right is False), None)
    if wrong is not None:
        what = "is flat or not reached" if abs(wrong.volts or 0) <= IN_ITS_PLACE_V else "stands the wrong way round"
        return f"Cell {wrong.cell} {what}: {volts_words(wrong.volts or 0.0)} with {wrong.expects} to lie up. Nothing is welded before it is right."
    unread = sum(c.right is None and c.wanted for c in polarity)
    if unread:
        return f"{unread} cell{'s are' if unread > 1 else ' is'} not read in place yet; each is, before the first weld."
    for group in dict.fromkeys(c.group for c in polarity if c.wanted):
        held = sorted((abs(c.volts), c.cell) for c in polarity if c.group == group and c.wanted and c.volts is not None)
        if held and held[-1][0] - held[0][0] > policy.together_v:
            low, high = held[0], held[-1]
            return (
                f"Cells {low[1]} and {high[1]} of group {group} read {low[0]:.2f} and {high[0]:.2f} V: joined, a large current would "
                f"flow between them. Bring them within {policy.together_v * 1000:.0f} mV first."
            )
    return None

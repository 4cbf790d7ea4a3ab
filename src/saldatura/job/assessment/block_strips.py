"""The strips of a block as a network: what each carries, and which would do."""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from pydantic import ValidationError

from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, field_lines
from saldatura.battery.join.checks import Piece
from saldatura.battery.join.laid import LaidStrip, tap_of
from saldatura.battery.join.map_types import Link, MappedCell, PackMap, PackMapRequest
from saldatura.battery.join.net_types import Interconnect, InterconnectRequest, Material, NetCell, Segment, TakeOff
from saldatura.battery.join.network import interconnect
from saldatura.battery.join.pack_map import pack_map
from saldatura.battery.join.school import School, by_school, school_a
from saldatura.battery.join.space import Point, pieces, pole_at, pole_of, poles_of, strip_mm
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.told_block import told_block
from saldatura.job.assessment.words import block_strips as words
from saldatura.job.facts import JobFacts
from saldatura.shop.block import NewBlock


@dataclass(frozen=True)
class Load:
    """What the strips carry for long, and at the peak, A."""

    lasting_a: float
    peak_a: float | None


class StripChoice(Value):
    """One way of making the strips, and what it comes to at the load. `how`: what it takes to weld it so. `school`: what those say of it who draw the line by amperes a strip,
    from `school_low_a` to `school_high_a`, of the piece that carries most, `largest_a`.
    """

    material: Material
    layers: int
    thickness_mm: float
    take_off: str
    says: str
    how: str
    worst_rise_k: float
    peak_rise_k: float | None
    drop_mv: float
    largest_share: float
    links_w: float
    enough: bool
    chosen: bool
    loss_fraction: float | None
    largest_a: float
    school_low_a: float
    school_high_a: float
    school: School


def laid_pieces(made: PackMap, strips: Sequence[LaidStrip] = ()) -> list[Piece]:
    """The strips in pieces from cell to cell: as they are told, else as each link is laid."""
    cells = {c.cell: c for c in made.cells}
    if strips:
        by_tap = {link.tap: link for link in made.links}
        steps = [
            _piece(by_tap[tap], a, b)
            for s in strips
            if (tap := tap_of(s, cells)) is not None
            for a, b in itertools.pairwise(s.cells)
        ]
        return list(dict.fromkeys(steps))
    return [_piece(link, a, b) for link in made.links for a, b in pieces(link, poles_of(made, link, cells))]


def _piece(link: Link, a: str, b: str) -> Piece:
    on = {
        cell: face for face in link.faces if a in face.cells or b in face.cells for cell in (a, b) if cell in face.cells
    }
    return Piece(link.tap, on[a].side if on[a] is on[b] else None, a, b, on[a].layer)


def segments_of(made: PackMap, entered: NewBlock) -> list[Segment]:
    """The strips in pieces: as each link is laid, pole to pole."""
    cells, strip = {c.cell: c for c in made.cells}, entered.strip

    def at(cell: str, tap: int) -> Point:
        return pole_at(cells[cell], pole_of(cells[cell], tap), made.layers, made.cell_mm)

    return [
        Segment(
            segment=words.l_to(p.tap, p.a, p.b), from_=_node(cells[p.a], p.tap), to=_node(cells[p.b], p.tap), material=strip.material,
            width_mm=strip.width_mm, thickness_mm=strip.thickness_mm, layers=strip.layers,
            length_mm=strip_mm(at(p.a, p.tap), at(p.b, p.tap), made.diameter_mm),
        )
        for p in laid_pieces(made, entered.strips)
    ]  # fmt: skip


def _node(cell: MappedCell, tap: int) -> str:
    return f"{cell.cell}{'+' if pole_of(cell, tap) == 'positive' else '-'}"


def network_of(facts: JobFacts, policy: Policy) -> InterconnectRequest:
    """The strips of a job's block as a network. Raises Impossible where there is none."""
    entered = told_block(facts)
    ohms, volts, _ = group_figures(facts, policy)
    found = _network(
        pack_map(map_request(facts, entered)), entered, ohms, volts, block_load(facts), facts.intake.pack.parallel
    )
    if found is None:
        raise Impossible("block", "single_cell", words.SINGLE_CELL_HAS_NO)
    return found


def solved_network(
    made: PackMap, entered: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> Interconnect | None:
    """The strips under the load; None where no strip is needed at all."""
    request = _network(made, entered, ohms, volts, load, parallel)
    return None if request is None else interconnect(request)


def _network(
    made: PackMap, entered: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> InterconnectRequest | None:
    strip, laid = entered.strip, segments_of(made, entered)
    if not laid:
        return None
    first, last = made.links[0], made.links[-1]
    at = 0 if strip.take_off == "end" else parallel // 2
    minus, plus = f"{first.cells[min(at, len(first.cells) - 1)]}-", f"{last.cells[min(at, parallel - 1)]}+"
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


def strip_choices(
    made: PackMap, entered: NewBlock, ohms: Sequence[float], volts: Sequence[float], load: Load, parallel: int
) -> Iterable[StripChoice]:
    """The usual ways of making the strips side by side, and the one that is told."""
    strip = entered.strip
    own = strip.thickness_mm
    wanted = dict.fromkeys(
        [
            (strip.material, strip.layers, own, strip.take_off),
            *((m, n, own if t is None else t, strip.take_off) for m, n, t in COMPARED),
        ]
    )
    if parallel > 2:
        wanted[strip.material, strip.layers, own, "middle" if strip.take_off == "end" else "end"] = None
    # Of strings side by side each carries its share, and shows the whole voltage.
    strings = max(len({c.group for c in made.cells if c.minus == 0}), 1)
    open_v = sum(volts) / strings
    for material, layers, thickness, take_off in wanted:
        made_of = strip.model_copy(
            update={"material": material, "layers": layers, "thickness_mm": thickness, "take_off": take_off}
        )
        found = solved_network(made, entered.model_copy(update={"strip": made_of}), ohms, volts, load, parallel)
        if found is None:
            return
        most = max(abs(s.current_a) for s in found.segments)
        allowed = school_a(material, strip.width_mm, thickness, layers)
        inside = sum(ohms) / parallel / strings**2 * load.lasting_a
        yield StripChoice(
            material=material,
            layers=layers,
            thickness_mm=thickness,
            take_off=take_off,
            says=words.layer_taken_off(
                MATERIAL_WORDS[material],
                layers,
                thickness if thickness != own else None,
                take_off if take_off != strip.take_off else None,
            ),
            how=words.how_it_is_welded(material, layers, thickness, entered.method.by, take_off),
            worst_rise_k=round(max(s.over_cell_k for s in found.segments), 2),
            peak_rise_k=round(max(s.peak_rise_k or 0.0 for s in found.segments), 2) if load.peak_a else None,
            drop_mv=round((open_v - inside - found.terminal_v) * 1000, 2),
            largest_share=round(max(c.share for c in found.cells), 4),
            links_w=round(found.links_w, 4),
            enough=found.enough,
            chosen=(material, layers, thickness, take_off) == (strip.material, strip.layers, own, strip.take_off),
            loss_fraction=None if found.loss_fraction is None else round(found.loss_fraction, 5),
            largest_a=round(most, 3),
            school_low_a=round(allowed[0], 2),
            school_high_a=round(allowed[1], 2),
            school=by_school(most, allowed),
        )


# Metal, layers, and thickness where it is another than the one told, mm.
COMPARED: tuple[tuple[Material, int, float | None], ...] = (
    ("nickel", 1, None), ("nickel", 2, None), ("nickel", 2, 0.2), ("plated_steel", 1, None), ("plated_steel", 2, None), ("copper", 1, None),
    ("copper", 1, 0.3),
)  # fmt: skip


MATERIAL_WORDS: dict[Material, str] = {
    "nickel": "nickel", "plated_steel": "plated steel", "copper": "copper", "aluminium": "aluminium", "brass": "brass",
}  # fmt: skip


def block_load(facts: JobFacts) -> Load:
    """The load that lasts, as told in Plan, else at the counter, else 1 C; and the peak, where one is told."""
    need, pack = facts.need, facts.intake.pack
    lasting = need.need.load_a if need and need.need.load_a else pack.load_a or pack.whole_ah
    return Load(lasting, need.need.peak_a if need else None)


def map_request(facts: JobFacts, entered: NewBlock) -> PackMapRequest:
    """A block as its map is asked for. Raises Impossible for cells that would stand in each other."""
    pack = facts.intake.pack
    said = {
        name: getattr(entered, name)
        for name in (
            "arrangement",
            "columns",
            "layers",
            "diameter_mm",
            "pitch_mm",
            "cell_mm",
            "cells",
            "looked_from",
            "around",
            "cross",
            "strips",
        )
    }
    try:
        return PackMapRequest(series=pack.series, parallel=pack.parallel, strings=pack.strings, **said)
    except ValidationError as error:
        raise Impossible(*field_lines(error.errors())[0]) from error


def group_figures(facts: JobFacts, policy: Policy) -> tuple[list[float], list[float], frozenset[int]]:
    """Resistance of a cell and voltage of each group: as measured, else usual and nominal; with the groups that nobody has read."""
    pack = facts.intake.pack
    usual = usual_resistance_ohm(pack.chemistry, pack.rated_ah) * pack.parallel
    nominal = WINDOWS[pack.chemistry].nominal_v
    now = groups_now(facts, assess_set(facts, "probe", policy), policy)
    ohms = [g.resistance_ohm.value * pack.parallel if g.resistance_ohm else usual for g in now]
    volts = [g.volts if g.volts is not None and not g.wants_cells and g.volts > 0 else nominal for g in now]
    return ohms, volts, frozenset(g.group for g in now if g.replaced and (g.volts is None or g.read_in == "drawer"))

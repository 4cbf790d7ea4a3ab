"""A job's block: its map, its strips solved and compared, the polarity run, the order of work, the wiring; from its facts."""

from collections.abc import Sequence
from typing import Literal

from saldatura.battery.cell.sizes import cell_length
from saldatura.battery.errors import Impossible
from saldatura.battery.join import checks
from saldatura.battery.join.map_types import Lie, MappedCell, PackMap
from saldatura.battery.join.net_types import Interconnect
from saldatura.battery.join.pack_map import mirrored, pack_map
from saldatura.battery.join.steps import WorkKind
from saldatura.battery.limits.joining import IN_ITS_PLACE_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.places import SensorPlace, TapPlace
from saldatura.battery.quantities import Value
from saldatura.job.assessment.block_strips import (
    StripChoice,
    block_load,
    group_figures,
    laid_pieces,
    map_request,
    solved_network,
    strip_choices,
)
from saldatura.job.assessment.block_work import SET_ANEW, WorkList, listed, method_says, work_of
from saldatura.job.assessment.proving import run_forecast
from saldatura.job.assessment.told_block import told_block
from saldatura.job.assessment.wired import Wiring, wiring_of
from saldatura.job.assessment.words import block as words
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import PolarityFact
from saldatura.job.facts.photo import pinned
from saldatura.shop.block import NewBlock

MOST_SOLVED = 400


class CellPolarity(Value):
    """A cell in its place: the pole that must lie up, what it read, and whether it stands right; None: not read yet. `wanted`: it is
    read before anything is joined.
    """

    cell: str
    group: int
    layer: int
    lies: Lie
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


# What of the cells as they stand keeps them from being joined.
PolarityStop = Literal["flat", "wrong_way_round", "cells_unread", "cells_apart"]


class Block(Value):
    """Everything that is computed of a job's block. `stop`: why nothing is joined as it stands, `stopped_by` its code."""

    entered: NewBlock
    map: PackMap
    below: list[MappedCell]
    findings: list[str]
    strips: Interconnect | None
    choices: list[StripChoice]
    load_a: float
    peak_a: float | None
    cells_c: float | None
    polarity: list[CellPolarity]
    stop: str | None
    stopped_by: PolarityStop | None
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
    entered = told_block(facts)
    pack = facts.intake.pack
    made = pack_map(map_request(facts, entered))
    load = block_load(facts)
    ohms, volts, unread = group_figures(facts, policy)
    # A wall of cells is mapped, and not solved while somebody waits for the page.
    small = len(made.cells) <= MOST_SOLVED
    # A tick, a note or a cell's polarity leaves the strips as they are.
    asked = (made, entered, ohms, volts, load, pack.parallel)
    strips = facts.same("strips", asked, lambda: solved_network(*asked)) if small else None
    work, groups = work_of(facts, entered)
    polarity = _polarity(facts, made, work, groups)
    old = _old_places(facts)
    fresh, in_place = _as_set(volts, polarity, _since_read(facts))
    stop, stopped_by = _stop(polarity, policy) or (None, None)
    lists, lists_stop = listed(facts, entered, made, work, groups, fresh, policy, unread - in_place)
    return Block(
        entered=NewBlock(**{name: getattr(entered, name) for name in NewBlock.model_fields}),
        map=made,
        below=mirrored(made.cells),
        findings=[*made.findings, *_checked(entered, made, volts, [o.sensor for o in old if o.sensor], policy, small)],
        strips=strips,
        choices=facts.same("choices", asked, lambda: list(strip_choices(*asked))) if small else [],
        load_a=load.lasting_a,
        peak_a=load.peak_a,
        cells_c=facts.same("cells_c", (ohms, volts, load, policy), lambda: _hottest_c(facts, load.lasting_a, policy)),
        polarity=polarity,
        stop=stop,
        stopped_by=stopped_by,
        method_says=method_says(entered.method, entered.strip),
        work=work,
        work_groups=groups,
        lists=lists,
        lists_stop=lists_stop,
        wiring=wiring_of(facts, policy, fresh, work, lists),
        old_places=old,
    )


def _hottest_c(facts: JobFacts, amps: float, policy: Policy) -> float | None:
    """How warm the cells themselves grow in a run of the full pack at that load, °C; None while their groups are not read."""
    try:
        run = run_forecast(facts, amps, policy)
    except Impossible:
        return None
    return None if run is None else run.hottest_c


def _checked(
    entered: NewBlock, made: PackMap, volts: Sequence[float], sensors: Sequence[str], policy: Policy, near: bool
) -> list[str]:
    """What would not be right of the block as it is told, in sentences."""
    spots = {s.sensor: s.between for s in entered.sensors}
    known = list(dict.fromkeys([*sensors, *spots]))
    found = checks.sensors(made, spots, known)
    stack = entered.arrangement == "stack" and not entered.cells
    length = entered.cell_mm or cell_length(entered.diameter_mm)
    box = [None if b is None else (b.length_mm, b.width_mm, b.height_mm) for b in (entered.case, entered.board)]
    found += checks.fits(
        made, (entered.strip.thickness_mm, entered.strip.layers), length, box[0], box[1], stack, entered.joint_mm or 0.0
    )
    if stack:
        return found
    if near:
        laid = laid_pieces(made, entered.strips)
        found += checks.gaps(made, laid, entered.strip.width_mm, volts, policy.strip_gap_mm, policy.strip_gap_mm_per_v)
        found += checks.over_cans(made, laid, entered.diameter_mm, entered.strip.width_mm, volts)
    return [*found, checks.rings(made, entered.strip.width_mm, volts)]


def _since_read(facts: JobFacts) -> set[str]:
    """Cells read in place since the pack was last charged or a set of readings was begun: later ones tell better."""
    last = max([s.id for s in facts.sets] + [run.end.id for run in facts.charges if run.end is not None], default=0)
    return {fact.cell for fact in facts.of_kind(PolarityFact) if fact.id > last}


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
                        photo=shown.photo.id, says=words.tap_on_photo(pin.place.tap, n), tap=pin.place.tap, sensor=None
                    )
                )
            elif isinstance(pin.place, SensorPlace):
                found.append(
                    OldPlace(
                        photo=shown.photo.id,
                        says=words.photo_sensor_n(pin.place.sensor, n),
                        tap=None,
                        sensor=pin.place.sensor,
                    )
                )
    return found


def _polarity(facts: JobFacts, made: PackMap, work: WorkKind, groups: Sequence[int]) -> list[CellPolarity]:
    seats, group_of = facts.structure.seats, {c.cell: c.group for c in made.cells}
    # What was read before other cells were put there was of the old ones.
    last = {
        fact.cell: fact.volts
        for fact in facts.of_kind(PolarityFact)
        if fact.cell in group_of and fact.id > seats[group_of[fact.cell] - 1].changed
    }
    return [
        CellPolarity(
            cell=c.cell, group=c.group, layer=c.layer, lies=c.lies, expects=c.top, volts=last.get(c.cell),
            right=None if c.cell not in last else _right(c.top, last[c.cell]),
            wanted=work == "rebuild" or (work in SET_ANEW and c.group in groups),
        )
        for c in made.cells
    ]  # fmt: skip


def _right(top: str, volts: float) -> bool:
    """Red on the upper pole: a plus that lies up reads positive."""
    return volts > IN_ITS_PLACE_V if top == "positive" else volts < -IN_ITS_PLACE_V


def _stop(polarity: Sequence[CellPolarity], policy: Policy) -> tuple[str, PolarityStop] | None:
    wrong = next((c for c in polarity if c.right is False), None)
    if wrong is not None:
        flat = abs(wrong.volts or 0) <= IN_ITS_PLACE_V
        what = words.FLAT_OR_NOT_REACHED if flat else words.STANDS_WRONG_WAY_ROUND
        says = words.cell_with_to_lie(wrong.cell, what, wrong.volts, wrong.expects, wrong.lies)
        return says, "flat" if flat else "wrong_way_round"
    unread = sum(c.right is None and c.wanted for c in polarity)
    if unread:
        return words.cell_not_read(unread), "cells_unread"
    for group in dict.fromkeys(c.group for c in polarity if c.wanted):
        held = sorted((abs(c.volts), c.cell) for c in polarity if c.group == group and c.wanted and c.volts is not None)
        if held and held[-1][0] - held[0][0] > policy.together_v:
            low, high = held[0], held[-1]
            says = words.cells_and_of_group(low[1], high[1], group, low[0], high[0], policy.together_v)
            return says, "cells_apart"
    return None

"""The `match` computation: cells chosen from a drawer and put into groups that are as even as can be.

Aims: `most`, the greatest smallest group; `just_enough`, a wanted capacity with the least capacity taken from the drawer.
"""

from collections import Counter
from collections.abc import Sequence

import numpy as np

from saldatura.battery.cell.curves import Array, middle_curve
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.joining import TOGETHER_V, UNRATED_C, WORTH_TAKING
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.match import words
from saldatura.battery.match.types import NEW_SHARE, UNTESTED_SHARE, DrawerCell, MatchedGroup, Matching, MatchRequest
from saldatura.battery.match.usable import cell_names, of_like_resistance, usable_cells
from saldatura.battery.wording import counted

BENCH_C = 0.5
# A swap that raises the smallest group by less than this is none.
HAIR_AH = 1e-9


def match(request: MatchRequest, policy: Policy = DEFAULT_POLICY) -> Matching:
    """Choose and group cells. Raises Impossible for a cell listed twice, too few that fit, a capacity or a load that no choice
    reaches."""
    twice = next((name for name, n in Counter(c.cell for c in request.cells).items() if n > 1), None)
    if twice is not None:
        raise Impossible("cells", "listed_twice", words.cell_is_listed_twice(twice))
    usable, refused = usable_cells(request, policy)
    need = request.series * request.parallel
    if len(usable) < need:
        raise Impossible(
            "cells",
            "too_few_cells",
            words.needed_p(len(usable), need, request.series, request.parallel)
            + (words.does_not(refused[0].cell, refused[0].because) if refused else ""),
        )
    usable, unlike = of_like_resistance(request, usable)
    refused += unlike
    usable.sort(key=lambda c: (-c.counts_ah, c.cell))
    bound = _bound(request, usable)
    taken = usable[:need] if request.aim == "most" else _just_enough(request, usable, bound)
    groups = _grouped(request, taken)
    if request.load_a is not None:
        groups, taken = _within_limits(request, groups, usable)
    sums = np.array([sum(c.counts_ah for c in group) for group in groups])
    chosen = {c.cell for c in taken}
    smallest = float(sums.min())
    if request.aim == "just_enough" and smallest < float(request.wanted_ah or 0):
        raise Impossible("wanted_ah", "wanted_not_reached", words.no_grouping(request.wanted_ah, bound))
    return Matching(
        groups=[_group(request, k, group) for k, group in enumerate(groups, start=1)],
        capacity_ah=round(smallest, 6),
        bound_ah=round(bound, 6),
        spread_fraction=round(float((sums.max() - sums.min()) / sums.mean()), 6),
        left_over=[c.cell for c in usable if c.cell not in chosen],
        refused=refused,
        says=_better(request, usable, smallest),
        **_unknown(request, groups),
    )


def _unknown(request: MatchRequest, groups: Sequence[Sequence[DrawerCell]]) -> dict[str, list[str]]:
    """What is not known of the cells taken, and what follows."""
    taken = [c for group in groups for c in group]
    untested = [c.cell for c in taken if c.capacity_ah is None]
    unread = [c.cell for c in taken if c.rest_v is None]
    unrated = [c.cell for c in taken if c.max_a is None]
    said = []
    if untested:
        said.append(words.not_tested_counted(cell_names(untested), UNTESTED_SHARE, NEW_SHARE))
    if unread and request.parallel > 1:
        said.append(words.not_read_read_each(cell_names(unread)))
    if unrated and request.load_a is not None:
        said.append(words.what_may_carry(cell_names(unrated), request.load_a, request.parallel))
    return {"untested": untested, "unread": unread, "unrated": unrated, "cautions": said}


def _bound(request: MatchRequest, usable: Sequence[DrawerCell]) -> float:
    """What the smallest group can hold at most: exact for one or two cells a group, else an even share of the best cells.

    Larger cells never make the smallest group smaller, so the best S·P may be taken. Of pairs, the best with the worst is
    best (exchange two partners and the smaller pair gets no larger).
    """
    best = np.array([c.counts_ah for c in usable[: request.series * request.parallel]])
    if request.parallel == 1:
        return float(best[-1])
    if request.parallel == 2:
        return float((best + best[::-1]).min())
    return float(best.sum() / request.series)


def _grouped(request: MatchRequest, taken: Sequence[DrawerCell]) -> list[list[DrawerCell]]:
    """Cells into groups of P with sums as even as swaps make them, from the largest cells dealt first."""
    s, p = request.series, request.parallel
    ordered = sorted(taken, key=lambda c: (-c.counts_ah, c.cell))
    if p == 2:
        return [[ordered[i], ordered[2 * s - 1 - i]] for i in range(s)]
    order = np.empty((s, p), dtype=int)
    sums = np.zeros(s)
    for layer in range(p):
        # The largest of what is left goes to the group that holds least.
        for rank, g in enumerate(np.argsort(sums, kind="stable")):
            order[g, layer] = layer * s + rank
        sums = np.array([sum(ordered[i].counts_ah for i in order[g, : layer + 1]) for g in range(s)])
    capacity = np.array([c.counts_ah for c in ordered])
    _even(order, capacity)
    return [[ordered[i] for i in row] for row in order]


def _even(order: np.ndarray, capacity: Array, rounds: int = 4000) -> None:
    """Swaps cells between the smallest or the largest group and any other, for as long as that brings them nearer the mean."""
    s, p = order.shape
    if s < 2 or p < 2:
        return
    for _ in range(rounds):
        held = capacity[order]
        sums = held.sum(axis=1)
        mean = sums.mean()
        best, move = HAIR_AH, list[int]()
        for g in (int(sums.argmin()), int(sums.argmax())):
            # Gain of every swap of a cell of g with one of another group, in squares of what both are off the mean: (S, P, P).
            delta = held[:, None, :] - held[g][None, :, None]
            before = (sums[g] - mean) ** 2 + (sums - mean) ** 2
            after = (sums[g] + delta - mean) ** 2 + (sums[:, None, None] - delta - mean) ** 2
            gain = before[:, None, None] - after
            gain[g] = -1.0
            at = int(gain.argmax())
            if gain.flat[at] > best:
                best, move = float(gain.flat[at]), [g, *(int(k) for k in np.unravel_index(at, gain.shape))]
        if not move:
            return
        g, other, mine, theirs = move
        order[g, mine], order[other, theirs] = order[other, theirs], order[g, mine]


def _just_enough(request: MatchRequest, usable: Sequence[DrawerCell], bound: float) -> list[DrawerCell]:
    """The least capable cells of which every group still reaches what is wanted: a run of the drawer, moved up until it does."""
    need, wanted = request.series * request.parallel, float(request.wanted_ah or 0)
    if bound < wanted:
        raise Impossible("wanted_ah", "wanted_above_all", words.group_are_more_than(wanted, bound))
    rising = sorted(usable, key=lambda c: (c.counts_ah, c.cell))
    totals = np.convolve([c.counts_ah for c in rising], np.ones(need), mode="valid")
    first = int(np.searchsorted(totals, request.series * wanted))
    for start in range(first, len(totals)):
        taken = rising[start : start + need]
        if min(sum(c.counts_ah for c in group) for group in _grouped(request, taken)) >= wanted:
            return _leaner(request, taken, rising[:start], wanted)
    return list(usable[:need])


def _leaner(request: MatchRequest, taken: list[DrawerCell], spare: list[DrawerCell], wanted: float) -> list[DrawerCell]:
    """The same with the largest cells put back for smaller ones, one at a time, while every group still reaches what is wanted."""
    taken, spare = list(taken), sorted(spare, key=lambda c: -c.counts_ah)
    excess = sum(c.counts_ah for c in taken) - request.series * wanted
    for smaller in spare[:40]:
        larger = max(
            (c for c in taken if c.counts_ah - smaller.counts_ah <= excess),
            key=lambda c: c.counts_ah,
            default=None,
        )
        if larger is None or larger.counts_ah <= smaller.counts_ah:
            continue
        tried = [smaller if c is larger else c for c in taken]
        if min(sum(c.counts_ah for c in group) for group in _grouped(request, tried)) >= wanted:
            taken, excess = tried, excess - (larger.counts_ah - smaller.counts_ah)
    return taken


def shares(resistances: Sequence[float]) -> Array:
    """Current of each cell of a group over the even share: by its conductance (Kirchhoff)."""
    siemens = 1 / np.array(resistances)
    return np.asarray(siemens / siemens.sum() * len(siemens))


def _over(request: MatchRequest, group: Sequence[DrawerCell]) -> DrawerCell | None:
    """The cell that is driven furthest over its limit in a group at the load; None where none is."""
    assert request.load_a is not None
    amps = shares([c.resistance_ohm for c in group]) * request.load_a / len(group)
    over = [
        (a / most, c)
        for a, c in zip(amps, group, strict=True)
        if a > (most := c.max_a or UNRATED_C * c.counts_ah) * (1 + 1e-9)
    ]
    return max(over, key=lambda o: o[0])[1] if over else None


def _may_carry(cell: DrawerCell) -> str:
    if cell.max_a is not None:
        return f"its {cell.max_a:.3g} A"
    return words.and_no_data_sheet()


def _within_limits(
    request: MatchRequest, groups: list[list[DrawerCell]], usable: Sequence[DrawerCell]
) -> tuple[list[list[DrawerCell]], list[DrawerCell]]:
    """No cell driven over its limit: one that is goes out for the best of those left, and the groups are dealt anew."""
    out: set[str] = set()
    while True:
        driven = next((c for group in groups if (c := _over(request, group)) is not None), None)
        taken = [c for group in groups for c in group]
        if driven is None:
            return groups, taken
        out.add(driven.cell)
        left = [c for c in usable if c.cell not in out and c not in taken]
        if not left:
            raise Impossible(
                "load_a",
                "cell_carries_too_much",
                words.cell_would_carry_more(request.load_a, driven.cell, _may_carry(driven)),
            )
        if request.aim == "just_enough":
            left = [c for c in left if c.counts_ah >= driven.counts_ah][-1:] or left
        groups = _grouped(request, [c for c in taken if c is not driven] + left[:1])


def _group(request: MatchRequest, number: int, cells: Sequence[DrawerCell]) -> MatchedGroup:
    ohms = [c.resistance_ohm for c in cells]
    rests = [c.rest_v for c in cells if c.rest_v is not None]
    spread = max(rests) - min(rests) if len(rests) == len(cells) else None
    together = None
    if spread is None and len(cells) > 1:
        unread = [c.cell for c in cells if c.rest_v is None]
        together = words.read_first_cells(cell_names(unread))
    if spread is not None and spread > TOGETHER_V and len(cells) > 1:
        high, low = max(cells, key=lambda c: c.rest_v or 0), min(cells, key=lambda c: c.rest_v or 0)
        amps = spread / (high.resistance_ohm + low.resistance_ohm)
        together = words.bring_to_one_voltage(high.cell, low.cell, spread, amps, _levelling(high, low, request))
    return MatchedGroup(
        group=number,
        cells=[c.cell for c in cells],
        capacity_ah=round(sum(c.counts_ah for c in cells), 6),
        resistance_ohm=float(f"{1 / sum(1 / r for r in ohms):.6g}"),
        largest_share=round(float(shares(ohms).max()), 6),
        rest_spread_v=None if spread is None else round(spread, 6),
        together=together,
    )


def _levelling(high: DrawerCell, low: DrawerCell, request: MatchRequest) -> str:
    """How long the lower cell charges to the higher one's voltage at half of C."""
    chemistry = low.chemistry or request.chemistry
    if chemistry is None or WINDOWS[chemistry].family == "nickel" or high.rest_v is None or low.rest_v is None:
        return ""
    curve = middle_curve(chemistry)
    hours = (curve.soc_at(high.rest_v) - curve.soc_at(low.rest_v)) / BENCH_C
    return words.takes_about_at_half(low.cell, hours)


def _better(request: MatchRequest, usable: Sequence[DrawerCell], smallest: float) -> str:
    """What a better drawer would bring: the weakest tenth of what is taken, in cells like the best."""
    need = request.series * request.parallel
    if request.aim == "just_enough":
        return words.each_group_reaches(smallest, len(usable), need)
    few = max(need // 10, 1)
    best = usable[0].counts_ah
    grown = sorted([c.counts_ah for c in usable[: need - few]] + [best] * few, reverse=True)
    twins = [DrawerCell(cell=str(i), capacity_ah=c, resistance_ohm=0.02) for i, c in enumerate(grown)]
    gain = _bound(request, twins) - smallest
    if gain < WORTH_TAKING * smallest:
        return words.BETTER_DRAWER_WOULD_BRING
    cells = counted(few, "more cell")
    return words.like_best_smallest_group(cells, best, smallest, gain)

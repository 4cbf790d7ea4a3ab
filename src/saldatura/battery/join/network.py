"""The `interconnect` computation: strips and cells as a network of conductances, solved exactly.

Kirchhoff's current law at every node, with each cell a voltage behind its resistance and its two welds. Equal strips do not mean
equal currents: the cell next to the take-off works hardest.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.curves import Array
from saldatura.battery.errors import Impossible
from saldatura.battery.join.heat import Fins
from saldatura.battery.join.net_types import (
    MATERIALS,
    CellCurrent,
    Interconnect,
    InterconnectRequest,
    NetFinding,
    SegmentCurrent,
)
from saldatura.battery.join.words import network as words
from saldatura.battery.limits.joining import AGAINST_W, LASTS_K, LOSS_SHARE, PEAK_K
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.limits.running import HOTTEST_C

# Cells side by side are joined within this, V: the default of the policy's `together_v`.


class Carried(NamedTuple):
    """A network solved for currents and temperatures: volts of nodes, A of pieces and cells, K of pieces over ambient and at the peak."""

    node: dict[str, int]
    volts: Array
    amps: Array
    out: Array
    ohms: Array
    rise: Array
    peak: Array | None
    open_v: float


def interconnect(request: InterconnectRequest) -> Interconnect:
    """Solve the network. Raises Impossible for a take-off that is not there, a cell that nothing joins, a network in pieces, and
    a cell that strips short."""
    from saldatura.battery.join.mend import least_mend

    found = carried(request)
    index, amps, out, rise, peak = found.node, found.amps, found.out, found.rise, found.peak
    poles = np.array([(index[f"{c.cell}+"], index[f"{c.cell}-"]) for c in request.cells])
    side = _sides(request, index, poles)
    share = _shares(side, out)
    heat = amps**2 * found.ohms
    terminal_v = float(found.volts[index[request.take_off.positive]] - found.volts[index[request.take_off.negative]])
    loss = float(heat.sum()) / power_w(request, side) if request.current_a else None
    findings = list(_findings(request, side, out, found.open_v, loss))
    barred = [f for f in findings if f.kind in ("do_not_join", "reversed_cell", "take_offs_exchanged")]
    # Of cells that are not to be joined nothing is said of what strips lose.
    findings = barred or findings
    cool = is_cool(request, found)
    mended = least_mend(request, found) if not cool and not barred else None
    return Interconnect(
        terminal_v=terminal_v,
        cells=[CellCurrent(cell=c.cell, current_a=float(a), share=round(float(s), 6)) for c, a, s in zip(request.cells, out, share, strict=True)],
        segments=[
            SegmentCurrent(
                segment=s.segment, current_a=float(a), heat_w=float(w), rise_k=round(float(k), 4),
                over_cell_k=round(float(k) - request.cell_rise_k, 4),
                peak_rise_k=None if peak is None else round(float(peak[i]) - request.cell_rise_k, 4),
                a_per_mm2=round(abs(float(a)) / (s.width_mm * s.thickness_mm * s.layers), 6),
            )
            for i, (s, a, w, k) in enumerate(zip(request.segments, amps, heat, rise, strict=True))
        ],
        links_w=float(heat.sum()),
        welds_w=float((out**2).sum() * 2 * request.weld_ohm),
        loss_fraction=None if loss is None else round(loss, 6),
        enough=cool and not barred,
        because=" ".join([*(f.because for f in barred), *([] if barred else [_because(request, found)]), *(f.because for f in findings if f not in barred)]),
        findings=findings,
        mend=None if mended is None else mended.says,
        mended=mended,
    )  # fmt: skip


def carried(request: InterconnectRequest, index: dict[str, int] | None = None) -> Carried:
    """Currents and temperatures of every piece; with the nodes of a network of the same joints, that is not looked at again for
    being whole. Raises Impossible as `interconnect`."""
    if index is None:
        index = {name: i for i, name in enumerate(dict.fromkeys(n for s in request.segments for n in (s.from_, s.to)))}
        _whole(request, index)
    ends = np.array([(index[s.from_], index[s.to]) for s in request.segments])
    ohms = np.array([s.ohm for s in request.segments])
    poles = np.array([(index[f"{c.cell}+"], index[f"{c.cell}-"]) for c in request.cells])
    inside = np.array([c.resistance_ohm + 2 * request.weld_ohm for c in request.cells])
    loads = [request.current_a, _signed_peak(request), 0.0]
    solved = _solved(request, index, loads, ends, ohms, poles, inside)
    amps = (solved[:, ends[:, 0]] - solved[:, ends[:, 1]]) / ohms
    out = (np.array([c.volts for c in request.cells]) - (solved[0, poles[:, 0]] - solved[0, poles[:, 1]])) / inside
    fins = _fins(request, index, ends)
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        rise = fins.steady(amps[0], request.cell_rise_k)
        peak = fins.peak(amps[0], amps[1], request.peak_s, request.cell_rise_k) if request.peak_a else None
    if not np.isfinite(rise).all() or (peak is not None and not np.isfinite(peak).all()):
        raise Impossible("current_a", "current_too_high", words.MUCH_CURRENT_IN_SUCH)
    at_rest = solved[2, [index[request.take_off.positive], index[request.take_off.negative]]]
    return Carried(index, solved[0], amps[0], out, ohms, rise, peak, float(at_rest[0] - at_rest[1]))


def _signed_peak(request: InterconnectRequest) -> float:
    """A peak goes the way of the lasting current, and out where there is none."""
    return float(request.peak_a or 0.0) * (-1.0 if request.current_a < 0 else 1.0)


def _fins(request: InterconnectRequest, index: dict[str, int], ends: NDArray[np.intp]) -> Fins:
    metals = [MATERIALS[s.material] for s in request.segments]
    held = np.zeros(len(index), dtype=bool)
    for c in request.cells:
        held[[index[f"{c.cell}+"], index[f"{c.cell}-"]]] = True
    return Fins(
        ends=ends,
        length_m=np.array([s.length_mm for s in request.segments]) * 1e-3,
        width_m=np.array([s.width_mm for s in request.segments]) * 1e-3,
        area_m2=np.array([s.width_mm * s.thickness_mm * s.layers for s in request.segments]) * 1e-6,
        k_w_mk=np.array([m.k_w_mk for m in metals]),
        ohm_m=np.array([m.resistivity for m in metals]) * 1e-6,
        heat_j_m3_k=np.array([m.heat_j_m3_k for m in metals]),
        held=held,
        face_w_m2k=request.face_w_m2k,
    )


def is_cool(request: InterconnectRequest, found: Carried) -> bool:
    """Whether no piece is warmer over the cells than is allowed, where the load lasts and at the peak."""
    return not too_warm(request, found).any()


def too_warm(request: InterconnectRequest, found: Carried) -> NDArray[np.bool_]:
    """Which pieces are warmer over the cells than is allowed."""
    hot = found.rise - request.cell_rise_k > LASTS_K
    if found.peak is not None:
        hot |= found.peak - request.cell_rise_k > PEAK_K
    return np.asarray(hot)


def power_w(request: InterconnectRequest, side: list[list[int]]) -> float:
    """What the block would give at its open voltage, W."""
    open_v = sum(abs(float(np.mean([request.cells[i].volts for i in members]))) for members in side)
    return max(open_v * abs(request.current_a), 1e-9)


def _findings(
    request: InterconnectRequest, side: list[list[int]], out: Array, open_v: float, loss: float | None
) -> Iterator[NetFinding]:
    cells = request.cells
    for members in side:
        volts = [cells[i].volts for i in members]
        low, high = members[int(np.argmin(volts))], members[int(np.argmax(volts))]
        apart = cells[high].volts - cells[low].volts
        if apart > DEFAULT_POLICY.together_v:
            amps = apart / (cells[low].resistance_ohm + cells[high].resistance_ohm)
            one, other = cells[low], cells[high]
            turned = words.reads_it_stands_wrong(one.cell, one.volts) if one.volts < 0 < other.volts else ""
            yield NetFinding(
                kind="do_not_join", cells=[one.cell, other.cell],
                because=words.do_not_join(one.cell, other.cell, apart, amps, turned),
            )  # fmt: skip
        elif open_v >= 0 and float(np.mean(np.array(volts) * out[members])) * request.current_a < -AGAINST_W * abs(
            request.current_a
        ):
            names = [cells[i].cell for i in members]
            yield NetFinding(
                kind="reversed_cell", cells=names,
                because=words.current_wrong_way_turned(names[:4], names),
            )  # fmt: skip
    if open_v < 0 and sum(c.volts for c in cells) > 0:
        yield NetFinding(
            kind="take_offs_exchanged", cells=[],
            because=words.take_offs_are_exchanged(open_v),
        )  # fmt: skip
    hottest = request.ambient_c + request.cell_rise_k
    if hottest > HOTTEST_C:
        yield NetFinding(kind="cells_hot", cells=[], because=words.cells_would(hottest))
    if loss is not None and loss > LOSS_SHARE:
        yield NetFinding(kind="loss", cells=[], because=words.strips_would_lose(loss))


def _whole(request: InterconnectRequest, index: dict[str, int]) -> None:
    """The network hangs together, cells joined at both poles and shorted by no strip."""
    for field in ("positive", "negative"):
        name = getattr(request.take_off, field)
        if name not in index:
            raise Impossible(f"take_off.{field}", "no_such_node", words.there_is_no_node(name))
    loose = [f"{c.cell}{pole}" for c in request.cells for pole in "+-" if f"{c.cell}{pole}" not in index]
    if loose:
        raise Impossible("cells", "cells_on_no_strip", words.no_strip_reaches_join(loose[:6]))
    count = len(index)
    rows = [index[s.from_] for s in request.segments]
    columns = [index[s.to] for s in request.segments]
    _, piece_of = _pieces(rows, columns, count)
    shorted = next(
        (c.cell for c in request.cells if piece_of[index[f"{c.cell}+"]] == piece_of[index[f"{c.cell}-"]]), None
    )
    if shorted is not None:
        raise Impossible("segments", "dead_short", words.strips_alone_lead(shorted))
    rows += [index[f"{c.cell}+"] for c in request.cells]
    columns += [index[f"{c.cell}-"] for c in request.cells]
    pieces, piece_of = _pieces(rows, columns, count)
    if pieces > 1:
        main = piece_of[index[request.take_off.positive]]
        apart = [c.cell for c in request.cells if piece_of[index[f"{c.cell}+"]] != main]
        nodes = [name for name, i in index.items() if piece_of[i] != main]
        raise Impossible("segments", "in_pieces", words.network_is_in_pieces(pieces, (apart or nodes)[:6]))


def _pieces(rows: list[int], columns: list[int], count: int) -> tuple[int, NDArray[np.int32]]:
    """How many pieces the nodes hang together in, and which each is in."""
    # Slow to load, and no start waits for it.
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    at = (np.array(rows), np.array(columns))
    found, piece_of = connected_components(coo_matrix((np.ones(len(rows)), at), shape=(count, count)), directed=False)
    return int(found), piece_of


def _solved(
    request: InterconnectRequest,
    index: dict[str, int],
    loads: Sequence[float],
    ends: NDArray[np.intp],
    ohms: Array,
    poles: NDArray[np.intp],
    inside: Array,
) -> Array:
    """Voltage of every node against the negative take-off, a row for each load, A."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.linalg import splu

    count = len(index)
    a, b = np.concatenate((ends, poles)).T
    siemens = 1 / np.concatenate((ohms, inside))
    values = np.concatenate((siemens, siemens, -siemens, -siemens))
    rows, columns = np.concatenate((a, b, a, b)), np.concatenate((a, b, b, a))
    flows = np.zeros(count)
    pushed = np.array([c.volts for c in request.cells]) / inside
    np.add.at(flows, poles[:, 0], pushed)
    np.add.at(flows, poles[:, 1], -pushed)
    ground = index[request.take_off.negative]
    kept = np.array([i for i in range(count) if i != ground])
    matrix = coo_matrix((values, (rows, columns)), shape=(count, count)).tocsc()
    loaded = np.tile(flows, (len(loads), 1))
    loaded[:, index[request.take_off.positive]] -= loads
    volts = np.zeros((len(loads), count))
    try:
        volts[:, kept] = splu(matrix[kept][:, kept]).solve(loaded[:, kept].T).T
    except RuntimeError as error:
        raise Impossible("segments", "resistances_too_far_apart", words.RESISTANCES_TOO_FAR_APART) from error
    return volts


def _sides(request: InterconnectRequest, index: dict[str, int], poles: Array) -> list[list[int]]:
    """Cells that lie side by side: between the same two pieces of strip."""
    count = len(index)
    _, piece_of = _pieces([index[s.from_] for s in request.segments], [index[s.to] for s in request.segments], count)
    group: dict[frozenset[int], list[int]] = {}
    for i, (plus, minus) in enumerate(poles):
        group.setdefault(frozenset((int(piece_of[plus]), int(piece_of[minus]))), []).append(i)
    return list(group.values())


def _shares(side: list[list[int]], out: Array) -> Array:
    """Each cell's current over the mean of those in parallel with it."""
    share = np.ones(len(out))
    for members in side:
        mean = float(np.mean(out[members]))
        if abs(mean) > 1e-9:
            share[members] = out[members] / mean
    return share


def _because(request: InterconnectRequest, found: Carried) -> str:
    over = found.rise - request.cell_rise_k
    worst = int(over.argmax())
    said = words.would_be_warmer_than(request.segments[worst].segment, over[worst], _too(over[worst] > LASTS_K))
    if found.peak is not None:
        peak = found.peak - request.cell_rise_k
        hot = int(peak.argmax())
        said += words.peak_would_be_warmer(request.segments[hot].segment, peak[hot], _too(peak[hot] > PEAK_K))
    return said


def _too(thin: bool) -> str:
    return ": too thin." if thin else "."

"""The `interconnect` computation: strips and cells as a network of conductances, solved exactly.

Kirchhoff's current law at every node, with each cell a voltage behind its resistance and its two welds. Equal strips do not mean
equal currents: the cell next to the take-off works hardest.
"""

from collections import Counter
from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from saldatura.core.chemistry import Array
from saldatura.core.errors import Impossible
from saldatura.core.quantities import CellVolts, Celsius, PositiveOhms, Value, Words

Material = Literal["nickel", "plated_steel", "copper", "aluminium", "brass"]
Name = Annotated[Words, Field(min_length=1, max_length=60)]
MOST_SEGMENTS, MOST_CELLS = 20_000, 4000


class MaterialRow(Value):
    """Resistivity at 20 °C in Ω·mm²/m and its coefficient per K; density × heat capacity, J/m³K."""

    resistivity: float
    per_k: float
    heat_j_m3_k: float


MATERIALS: dict[Material, MaterialRow] = {
    "nickel": MaterialRow(resistivity=0.070, per_k=0.006, heat_j_m3_k=8908.0 * 444),
    "plated_steel": MaterialRow(resistivity=0.15, per_k=0.005, heat_j_m3_k=7850.0 * 490),
    "copper": MaterialRow(resistivity=0.0172, per_k=0.0039, heat_j_m3_k=8960.0 * 385),
    "aluminium": MaterialRow(resistivity=0.0282, per_k=0.0039, heat_j_m3_k=2700.0 * 897),
    "brass": MaterialRow(resistivity=0.065, per_k=0.0015, heat_j_m3_k=8500.0 * 380),
}
# Still air inside a case, on the face that no cell covers; what lasts may warm a strip by so much, and a peak (policy).
AIR_W_M2_K, LASTS_K, PEAK_K = 10.0, 20.0, 40.0


class NetCell(Value):
    """A cell: its voltage and its resistance; its poles are the nodes X+ and X−."""

    cell: Name
    volts: CellVolts
    resistance_ohm: PositiveOhms


class Segment(Value):
    """A piece of strip between two nodes."""

    segment: Name
    from_: Annotated[Name, Field(alias="from")]
    to: Name
    material: Material = "nickel"
    width_mm: Annotated[float, Field(gt=0, le=1000)]
    thickness_mm: Annotated[float, Field(gt=0, le=50)]
    length_mm: Annotated[float, Field(gt=0, le=10_000)]
    layers: Annotated[int, Field(ge=1, le=20)] = 1

    model_config = {"populate_by_name": True, "serialize_by_alias": True}

    @property
    def ohm(self) -> float:
        """R = ρ·l / (w·t·layers), at 20 °C."""
        return (
            MATERIALS[self.material].resistivity
            * self.length_mm
            / 1000
            / (self.width_mm * self.thickness_mm * self.layers)
        )


class TakeOff(Value):
    """The nodes where the load is joined."""

    positive: Name
    negative: Name


class InterconnectRequest(Value):
    """A block under a load. `peak_a` and `peak_s`: a peak beside the load that lasts. A positive current discharges."""

    cells: Annotated[list[NetCell], Field(min_length=1, max_length=MOST_CELLS)]
    segments: Annotated[list[Segment], Field(min_length=1, max_length=MOST_SEGMENTS)]
    weld_ohm: Annotated[float, Field(ge=0, le=1)] = 0.0003
    take_off: TakeOff
    current_a: Annotated[float, Field(ge=-10_000, le=10_000)]
    ambient_c: Celsius = 25.0
    peak_a: Annotated[float, Field(ge=0, le=10_000)] | None = None
    peak_s: Annotated[float, Field(gt=0, le=3600)] = 10.0

    @model_validator(mode="after")
    def _once(self) -> Self:
        for what, names in (("cell", [c.cell for c in self.cells]), ("segment", [s.segment for s in self.segments])):
            twice = next((name for name, n in Counter(names).items() if n > 1), None)
            if twice is not None:
                raise ValueError(f"{what} {twice} is listed twice; a name for each")
        loop = next((s for s in self.segments if s.from_ == s.to), None)
        if loop is not None:
            raise ValueError(f"segment {loop.segment} begins and ends at {loop.from_}; name two nodes")
        return self


class CellCurrent(Value):
    """What a cell gives: A out of its plus, and as a multiple of the even share of its neighbours in parallel."""

    cell: str
    current_a: float
    share: float


class SegmentCurrent(Value):
    """What a piece of strip carries: A from its first node to its second, heat, rise where it lasts and at the peak, density."""

    segment: str
    current_a: float
    heat_w: float
    rise_k: float
    peak_rise_k: float | None
    a_per_mm2: float


class Interconnect(Value):
    """The network solved. `links_w`: heat of all strips, `welds_w` of all welds; `enough`: no strip warms beyond what is allowed."""

    terminal_v: float
    cells: list[CellCurrent]
    segments: list[SegmentCurrent]
    links_w: float
    welds_w: float
    enough: bool
    because: str
    mend: str | None


def interconnect(request: InterconnectRequest) -> Interconnect:
    """Solve the network. Raises Impossible for a take-off that is not there, a cell that nothing joins, a network in pieces, and
    a cell that strips short."""
    index = {name: i for i, name in enumerate(dict.fromkeys(n for s in request.segments for n in (s.from_, s.to)))}
    _whole(request, index)
    volts = _solved(request, index)
    ends = np.array([(index[s.from_], index[s.to]) for s in request.segments])
    ohms = np.array([s.ohm for s in request.segments])
    amps = (volts[ends[:, 0]] - volts[ends[:, 1]]) / ohms
    poles = np.array([(index[f"{c.cell}+"], index[f"{c.cell}-"]) for c in request.cells])
    inside = np.array([c.resistance_ohm + 2 * request.weld_ohm for c in request.cells])
    out = (np.array([c.volts for c in request.cells]) - (volts[poles[:, 0]] - volts[poles[:, 1]])) / inside
    share = _shares(request, index, poles, out)
    heat = amps**2 * ohms
    rise = heat / (AIR_W_M2_K * np.array([s.width_mm * s.length_mm for s in request.segments]) * 1e-6)
    peak = _peak_rise(request, amps)
    worst = int(rise.argmax())
    hot = None if peak is None else int(peak.argmax())
    enough = bool(rise[worst] <= LASTS_K and (peak is None or hot is None or peak[hot] <= PEAK_K))
    return Interconnect(
        terminal_v=float(volts[index[request.take_off.positive]] - volts[index[request.take_off.negative]]),
        cells=[CellCurrent(cell=c.cell, current_a=float(a), share=round(float(s), 6)) for c, a, s in zip(request.cells, out, share, strict=True)],
        segments=[
            SegmentCurrent(
                segment=s.segment, current_a=float(a), heat_w=float(w), rise_k=round(float(k), 4),
                peak_rise_k=None if peak is None else round(float(peak[i]), 4),
                a_per_mm2=round(abs(float(a)) / (s.width_mm * s.thickness_mm * s.layers), 6),
            )
            for i, (s, a, w, k) in enumerate(zip(request.segments, amps, heat, rise, strict=True))
        ],
        links_w=float(heat.sum()),
        welds_w=float((out**2).sum() * 2 * request.weld_ohm),
        enough=enough,
        because=_because(request, rise, worst, peak, hot),
        mend=None if enough else _mend(request, rise, worst, peak),
    )  # fmt: skip


def _whole(request: InterconnectRequest, index: dict[str, int]) -> None:
    """The network hangs together, cells joined at both poles and shorted by no strip."""
    for field in ("positive", "negative"):
        name = getattr(request.take_off, field)
        if name not in index:
            raise Impossible(f"take_off.{field}", f"there is no node {name}; name one that a segment ends at")
    loose = [f"{c.cell}{pole}" for c in request.cells for pole in "+-" if f"{c.cell}{pole}" not in index]
    if loose:
        raise Impossible("cells", f"no strip reaches {', '.join(loose[:6])}; join every pole")
    count = len(index)
    rows = [index[s.from_] for s in request.segments]
    columns = [index[s.to] for s in request.segments]
    _, of = _pieces(rows, columns, count)
    shorted = next((c.cell for c in request.cells if of[index[f"{c.cell}+"]] == of[index[f"{c.cell}-"]]), None)
    if shorted is not None:
        raise Impossible(
            "segments",
            f"strips alone lead from {shorted}+ to {shorted}-: the cell is shorted; take the piece out that joins them",
        )
    rows += [index[f"{c.cell}+"] for c in request.cells]
    columns += [index[f"{c.cell}-"] for c in request.cells]
    pieces, of = _pieces(rows, columns, count)
    if pieces > 1:
        main = of[index[request.take_off.positive]]
        apart = [c.cell for c in request.cells if of[index[f"{c.cell}+"]] != main]
        nodes = [name for name, i in index.items() if of[i] != main]
        raise Impossible(
            "segments",
            f"the network is in {pieces} pieces: {', '.join((apart or nodes)[:6])} hang apart from the take-off",
        )


def _pieces(rows: list[int], columns: list[int], count: int) -> tuple[int, NDArray[np.int32]]:
    """How many pieces the nodes hang together in, and which each is in."""
    # Slow to load, and no start waits for it.
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    at = (np.array(rows), np.array(columns))
    found, of = connected_components(coo_matrix((np.ones(len(rows)), at), shape=(count, count)), directed=False)
    return int(found), of


def _solved(request: InterconnectRequest, index: dict[str, int]) -> Array:
    """Voltage of every node against the negative take-off."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.linalg import spsolve

    count = len(index)
    rows: list[int] = []
    columns: list[int] = []
    values: list[float] = []
    flows = np.zeros(count)

    def between(a: int, b: int, siemens: float) -> None:
        rows.extend((a, b, a, b))
        columns.extend((a, b, b, a))
        values.extend((siemens, siemens, -siemens, -siemens))

    for s in request.segments:
        between(index[s.from_], index[s.to], 1 / s.ohm)
    for c in request.cells:
        plus, minus = index[f"{c.cell}+"], index[f"{c.cell}-"]
        siemens = 1 / (c.resistance_ohm + 2 * request.weld_ohm)
        between(plus, minus, siemens)
        flows[plus] += c.volts * siemens
        flows[minus] -= c.volts * siemens
    flows[index[request.take_off.positive]] -= request.current_a
    flows[index[request.take_off.negative]] += request.current_a
    ground = index[request.take_off.negative]
    kept = np.array([i for i in range(count) if i != ground])
    matrix = coo_matrix((np.array(values), (np.array(rows), np.array(columns))), shape=(count, count)).tocsc()
    volts = np.zeros(count)
    volts[kept] = spsolve(matrix[kept][:, kept], flows[kept])
    return volts


def _shares(request: InterconnectRequest, index: dict[str, int], poles: Array, out: Array) -> Array:
    """Each cell's current over the mean of those in parallel with it: between the same two pieces of strip."""
    count = len(index)
    _, of = _pieces([index[s.from_] for s in request.segments], [index[s.to] for s in request.segments], count)
    group: dict[tuple[int, int], list[int]] = {}
    for i, (plus, minus) in enumerate(poles):
        group.setdefault((int(of[plus]), int(of[minus])), []).append(i)
    share = np.ones(len(out))
    for members in group.values():
        mean = float(np.mean(out[members]))
        if abs(mean) > 1e-9:
            share[members] = out[members] / mean
    return share


def _peak_rise(request: InterconnectRequest, amps: Array) -> Array | None:
    """Rise at the peak, all heat kept in the strip: I²R·t / (m·c)."""
    if request.peak_a is None or not request.current_a:
        return None
    carried = amps * request.peak_a / abs(request.current_a)
    heat = carried**2 * np.array([s.ohm for s in request.segments]) * request.peak_s
    volume = np.array([s.width_mm * s.thickness_mm * s.layers * s.length_mm for s in request.segments]) * 1e-9
    return np.asarray(heat / (volume * np.array([MATERIALS[s.material].heat_j_m3_k for s in request.segments])))


def _because(request: InterconnectRequest, rise: Array, worst: int, peak: Array | None, hot: int | None) -> str:
    said = f"{request.segments[worst].segment} warms most, by {rise[worst]:.1f} K of the {LASTS_K:.0f} K that a lasting load may."
    if peak is not None and hot is not None:
        said += f" At the peak {request.segments[hot].segment} warms by {peak[hot]:.1f} of {PEAK_K:.0f} K."
    return said


def _mend(request: InterconnectRequest, rise: Array, worst: int, peak: Array | None) -> str:
    """The least change that makes it enough: heat falls with each layer, and as copper for nickel."""
    over = max(float(rise[worst]) / LASTS_K, 0.0 if peak is None else float(np.sqrt(peak.max() / PEAK_K)))
    s = request.segments[worst]
    layers = int(np.ceil(s.layers * over))
    hot = [request.segments[i].segment for i in np.flatnonzero(rise > LASTS_K)]
    where = ", ".join(hot[:4]) or s.segment
    if layers <= 3:
        return f"{layers} layers instead of {s.layers} at {where}, joined to each other along their length."
    gain = MATERIALS[s.material].resistivity / MATERIALS["copper"].resistivity
    if over <= gain:
        return f"Copper of the same size at {where}: it carries {gain:.1f} times as well."
    return f"{over:.1f} times the cross-section at {where}, or take off at the middle of the block so that each half carries its own."

"""From a pack's description and its faults to the arrays the model steps."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import BELOW_CURVE_SOC, Array, Curve, curves_for
from saldatura.battery.cell.resistance import SLOW_PER_FAST, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.member import HEAT_CAPACITY_J_K_AH, HEAT_LOSS_W_K_AH
from saldatura.battery.errors import Impossible
from saldatura.battery.pack import words
from saldatura.battery.pack.faults import CellFault, ContactFault, Fault, JointFault, SensorFault, WireFault
from saldatura.battery.quantities import Pack
from saldatura.battery.string.hazard import LINK_OHM

FAST_TAU_S = 10.0
# The 10 s resistance is the ohmic part plus what the fast branch has risen to by then, 1 − 1/e of it.
OHMIC_SHARE = 0.7
NEIGHBOUR_W_K_AH = 0.02
# Share of its charge that a sound cell loses in a month at room temperature: maker's data sheets give 1–3 % for
# lithium and 15–25 % for plain nickel cells.
MONTH_S = 30 * 86400.0
LOST_A_MONTH = {"lithium": 0.02, "nickel": 0.20}
NICKEL_V_PER_K = -0.004
TORN_OHM = 1e9

GRID_LOW, GRID_STEP, GRID_HIGH = -0.20, 0.0025, 1.30
REVERSED_V_PER_SOC = 6.0


@dataclass(frozen=True)
class PackModel:
    """A pack's truth. Arrays over cells have shape (groups, P); `table` is the OCV on the grid above. `parted`: its strings do not touch one
    another, so that each carries only what is put on its own groups.
    """

    pack: Pack
    table: Array
    capacity_as: Array
    ohmic_ohm: Array
    fast_ohm: Array
    slow_ohm: Array
    leak_s: Array
    heat_j_k: Array
    loss_w_k: Array
    neighbour_w_k: Array
    links_ohm: float
    main_open: bool
    volts_per_k: float
    start_soc: Array
    wires: tuple[WireFault, ...] = ()
    faults: tuple[Fault, ...] = ()
    parted: bool = False


def build(
    pack: Pack,
    soc: Sequence[float] | float,
    faults: Sequence[Fault] = (),
    curve: int = 0,
    capacity_ah: float | None = None,
    resistance_ohm: float | None = None,
    lost_a_month: float | None = None,
) -> PackModel:
    """A pack whose groups start at `soc` (one for all, or one a group). `capacity_ah` and `resistance_ohm` (10 s) are
    of a group, `lost_a_month` is the share that self-discharge takes in a month; None: as usual. Raises Impossible for faults on cells or wires that the pack does not have.
    """
    shape = (pack.series, pack.parallel)
    group_ah = capacity_ah or pack.rated_ah
    cell_ah = group_ah / pack.parallel
    cell_ohm = (resistance_ohm or usual_resistance_ohm(pack.chemistry, group_ah)) * pack.parallel
    ohmic = OHMIC_SHARE * cell_ohm
    fast = (cell_ohm - ohmic) / (1 - np.exp(-10.0 / FAST_TAU_S))
    start = (
        np.broadcast_to(np.asarray(soc, dtype=float), (pack.series,))
        if not np.isscalar(soc)
        else np.full(pack.series, soc)
    )
    if not np.all((start >= -0.2) & (start <= 1.2)):
        raise Impossible("soc", "soc_out_of_range", words.STATE_OF_CHARGE_LIES)
    table = _table(pack, curve)
    nickel = WINDOWS[pack.chemistry].family == "nickel"
    lost = LOST_A_MONTH["nickel" if nickel else "lithium"] if lost_a_month is None else lost_a_month
    arrays = {
        "capacity_as": np.full(shape, cell_ah * 3600),
        "ohmic_ohm": np.full(shape, ohmic),
        "leak_s": np.full(shape, cell_ah * 3600 * lost / MONTH_S / WINDOWS[pack.chemistry].nominal_v),
        "start_soc": np.repeat(start[:, None], pack.parallel, axis=1).astype(float),
    }
    _inject(pack, table, arrays, faults)
    return PackModel(
        pack=pack,
        table=table,
        fast_ohm=np.full(shape, fast),
        slow_ohm=np.full(shape, SLOW_PER_FAST * cell_ohm),
        heat_j_k=np.full(shape, HEAT_CAPACITY_J_K_AH * cell_ah),
        loss_w_k=np.full(shape, HEAT_LOSS_W_K_AH * cell_ah),
        neighbour_w_k=np.full(shape, NEIGHBOUR_W_K_AH * cell_ah if pack.parallel > 1 else 0.0),
        links_ohm=LINK_OHM * pack.in_string / pack.strings + sum(f.ohm for f in faults if isinstance(f, ContactFault)),
        main_open=any(isinstance(f, ContactFault) and f.kind == "open" for f in faults),
        volts_per_k=NICKEL_V_PER_K if nickel else 0.0,
        wires=tuple(f for f in faults if isinstance(f, WireFault)),
        faults=tuple(faults),
        parted=False,
        **arrays,
    )


def _table(pack: Pack, curve: int) -> Array:
    curves = curves_for(pack.chemistry)
    if not 0 <= curve < len(curves):
        raise Impossible("curve", "no_such_curve", words.has_curves(pack.chemistry, len(curves)))
    return table_of(curves[curve])


def table_of(curve: Curve) -> Array:
    """A curve on the grid of the model, with what a reversed cell reads below it."""
    grid = np.asarray(GRID_LOW + GRID_STEP * np.arange(round((GRID_HIGH - GRID_LOW) / GRID_STEP) + 1), dtype=np.float64)
    volts = curve.volts(grid)
    below = grid < -BELOW_CURVE_SOC
    volts[below] = (grid[below] + BELOW_CURVE_SOC) * REVERSED_V_PER_SOC
    return np.ascontiguousarray(volts)


def _inject(pack: Pack, table: Array, arrays: dict[str, Array], faults: Sequence[Fault]) -> None:
    for i, fault in enumerate(faults):
        if isinstance(fault, WireFault):
            for tap in (fault.tap, fault.other):
                if tap is not None and tap > pack.series:
                    raise Impossible(f"faults.{i}.tap", "no_such_tap", words.tap_does_not_exist(tap, pack.series))
            continue
        if isinstance(fault, ContactFault):
            if fault.group is not None and fault.group >= pack.series:
                raise Impossible(
                    f"faults.{i}.group", "no_strip_above", words.no_strip_lies_above(fault.group, pack.series)
                )
            continue
        if isinstance(fault, SensorFault):
            continue
        if fault.group > pack.series or fault.cell > pack.parallel:
            raise Impossible(
                f"faults.{i}",
                "no_such_cell",
                words.cell_of_group_does(fault.cell, fault.group, pack.series, pack.parallel),
            )
        at = (fault.group - 1, fault.cell - 1)
        if isinstance(fault, JointFault):
            arrays["ohmic_ohm"][at] += TORN_OHM if fault.kind == "torn_tab" else fault.ohm
        else:
            _inject_cell(fault, at, table, arrays)


def _inject_cell(fault: CellFault, at: tuple[int, int], table: Array, arrays: dict[str, Array]) -> None:
    grid = GRID_LOW + GRID_STEP * np.arange(len(table))
    match fault.kind:
        case "low_capacity":
            arrays["capacity_as"][at] *= max(fault.size, 1e-3)
        case "high_resistance":
            arrays["ohmic_ohm"][at] *= fault.size
        case "soft_short" | "dead_short":
            arrays["leak_s"][at] += 1 / max(fault.size, 1e-6)
        case "run_flat":
            # A group rests at one voltage, so all its cells went down together.
            arrays["start_soc"][at[0], :] = np.interp(fault.size, np.maximum.accumulate(table), grid)
        case "reversed":
            arrays["start_soc"][at[0], :] = np.interp(-fault.size, np.maximum.accumulate(table), grid)

"""The stand-in cell tester: a cell of the drawer put through a discharge on the bench model, and read as a tester reads."""

import zlib

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.build import build
from saldatura.battery.pack.drive import ConstantCurrent, Rest
from saldatura.battery.pack.faults import CellFault
from saldatura.battery.pack.model import PackState, advance, group_volts
from saldatura.battery.quantities import Pack
from saldatura.shop.cells.types import CellTest, CellType

NAME = "stand-in tester"
AMBIENT_C, TEST_C = 22.0, 0.5
# A tester reads volts and amps to a few parts in ten thousand.
READS = 0.0005


def stand_in_test(cell_type: CellType, name: str, used: bool) -> CellTest:
    """What a virtual cell of a type shows: charged full, discharged at half of C. A cell is the same virtual one every time, by its
    name; used ones have lost some of their capacity, and gained as much resistance."""
    rng = np.random.default_rng(zlib.crc32(name.encode()))
    pack = Pack(chemistry=cell_type.chemistry, series=1, rated_ah=cell_type.rated_ah)
    left = float(np.clip(rng.normal(0.86, 0.07), 0.4, 1.0)) if used else float(rng.normal(1.0, 0.008))
    worn = [
        CellFault(kind="low_capacity", group=1, size=left),
        CellFault(kind="high_resistance", group=1, size=1 / left * float(np.exp(rng.normal(0, 0.05)))),
    ]
    window = WINDOWS[cell_type.chemistry]
    model = build(pack, 0.999, worn, resistance_ohm=cell_type.ohm)
    at = PackState.at_rest(model, AMBIENT_C)
    rest = float(group_volts(model, at)[0])
    amps = TEST_C * cell_type.rated_ah
    _, step = advance(model, at, ConstantCurrent(amps=-amps), 10.0, 0.5, AMBIENT_C)
    after, log = advance(model, at, ConstantCurrent(amps=-amps), 3 * 3600.0, 1.0, AMBIENT_C, low_v=window.tool_end_v)
    settled, _ = advance(model, after, Rest(), 3600.0, 10.0, AMBIENT_C)
    read = 1 + rng.normal(0, READS, 3)
    return CellTest(
        capacity_ah=round(len(log.time_s) * amps / 3600 * float(read[0]), 4),
        capacity_a=amps,
        dc_ohm=round((rest - float(step.volts[-1])) / amps * float(read[1]), 6),
        rest_v=round(float(group_volts(model, settled)[0]) * float(read[2]), 4),
        rise_k=round(float(after.celsius.max()) - AMBIENT_C, 1),
        by=NAME,
        simulated=True,
    )

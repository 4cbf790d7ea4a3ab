"""What `scrapped` says."""

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey

BOARD_AND_WIRES = "board and wires"
CASE = "case and what is left"


def cells_of(chemistry: ChemistryKey) -> str:
    return f"cells, {WINDOWS[chemistry].name}"

"""Which cells may be taken at all."""

from collections import Counter
from collections.abc import Sequence

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.joining import MOST_RATIO
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import REVERSED_BELOW_V
from saldatura.battery.limits.states import rest_state
from saldatura.battery.match import words
from saldatura.battery.match.types import DrawerCell, MatchRequest, RefusedCell
from saldatura.battery.quantities import ChemistryKey
from saldatura.battery.wording import ohms_small


def of_like_resistance(request: MatchRequest, usable: list[DrawerCell]) -> tuple[list[DrawerCell], list[RefusedCell]]:
    """The cells of like resistance out of which the most can be made, and those that are too far from them."""
    need = request.series * request.parallel
    by_ohm = sorted(usable, key=lambda c: c.resistance_ohm)
    ohms = np.array([c.resistance_ohm for c in by_ohm])
    if request.parallel == 1 or ohms[-1] <= MOST_RATIO * ohms[0]:
        return usable, []
    ends = np.searchsorted(ohms, MOST_RATIO * ohms, side="right")
    starts = [i for i in range(len(ohms)) if ends[i] - i >= need and (i == 0 or ends[i] > ends[i - 1])]
    if not starts:
        raise Impossible("cells", "none_alike", words.no_cells_of_like(need, ohms[0], ohms[-1]))
    tried = starts[:: max(len(starts) // WINDOWS_TRIED, 1)]
    best = max(tried, key=lambda i: sum(sorted((c.counts_ah for c in by_ohm[i : ends[i]]), reverse=True)[:need]))
    low, high = ohms[best], ohms[ends[best] - 1]
    taken = {c.cell for c in by_ohm[best : ends[best]]}
    because = words.among_cells(low, high)
    return [c for c in usable if c.cell in taken], [
        RefusedCell(cell=c.cell, because=f"{ohms_small(c.resistance_ohm)} {because}")
        for c in usable
        if c.cell not in taken
    ]


def cell_names(cells: Sequence[str]) -> str:
    """Cells by name, a few of them where they are many."""
    return ", ".join(cells[:4]) + (words.more_cells_count(len(cells)) if len(cells) > 4 else "")


def usable_cells(request: MatchRequest, policy: Policy) -> tuple[list[DrawerCell], list[RefusedCell]]:
    """Cells that may be taken, and those that may not with the reason."""
    known = [c.chemistry for c in request.cells if c.chemistry is not None]
    chemistry = request.chemistry or (Counter(known).most_common(1)[0][0] if known else None)
    usable, refused = [], []
    for cell in request.cells:
        why = None
        if chemistry is not None and cell.chemistry is not None and not alike(cell.chemistry, chemistry):
            why = words.among_one_chemistry(WINDOWS[cell.chemistry].name, WINDOWS[chemistry].name)
        elif cell.rest_v is not None:
            why = _lost(cell, chemistry, policy)
        if why is None:
            usable.append(cell)
        else:
            refused.append(RefusedCell(cell=cell.cell, because=why))
    return usable, refused


def alike(one: ChemistryKey, other: ChemistryKey) -> bool:
    """Layered oxides of one window go by one name where theirs is not known."""
    return one == other or ("li_oxide" in (one, other) and {one, other} <= {"li_oxide", "nmc", "nca", "lco"})


def _lost(cell: DrawerCell, chemistry: ChemistryKey | None, policy: Policy) -> str | None:
    """Why a cell is not taken as it rests."""
    assert cell.rest_v is not None
    rests = words.rests_at(cell.rest_v)
    made_of = cell.chemistry or chemistry
    if made_of is None:
        return words.reversed_never_used_again(rests) if cell.rest_v < REVERSED_BELOW_V else None
    window = policy.window(made_of)
    match rest_state(window, cell.rest_v).code:
        case "reversed":
            return words.reversed_never_used_again(rests)
        case "beyond" if window.family == "nickel":
            return words.more_than_nickel_cell(rests)
        case _ if window.family == "nickel":
            return None
        case "empty" | "under_floor":
            return words.under_floor_of_never(rests, window.rest_floor_v)
        case "run_flat":
            return words.run_flat_below(rests, window.charge_normally_from_v)
        case "overcharged" | "beyond":
            return words.above_that_is_full(rests, window.full_v)
    return None


WINDOWS_TRIED = 48

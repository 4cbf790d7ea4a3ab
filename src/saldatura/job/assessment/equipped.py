"""What a pack has beside its cells: a board and what it lacks, balance wires, sensors. Nothing is asked or promised of what it has not."""

from collections.abc import Mapping

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.plan.types import Lacks
from saldatura.battery.quantities import Value
from saldatura.job.assessment.words import equipped as words
from saldatura.job.facts import BoardFact, JobFacts, WorkFact
from saldatura.job.facts.becoming import Board, BoardLacks, BoardMake
from saldatura.job.facts.block import TickFact, WiringFact

BOARD_LACKS: Mapping[Lacks, BoardLacks] = {
    "temperature_sensor": "temperature", "fuse": "fuse", "group_limits": "group_limits", "balancing": "balancing",
}  # fmt: skip


class NowBoard(Value):
    """The board in the pack, and what it lacks of what the pack's own has. `told`: somebody said which it is."""

    make: BoardMake
    lacks: list[BoardLacks]
    reported: bool = True


def usual_other(facts: JobFacts) -> Board:
    """The board that was put in, where nobody said more: what Plan was told that a copy lacks is of another make, as is one whose plug is
    numbered otherwise.
    """
    lacks = facts.need.copy_lacks if facts.need is not None else []
    wired = facts.of_kind(WiringFact)
    other = bool(lacks) or (bool(wired) and wired[-1].other is not None)
    return Board(make="other" if other else "own", lacks=[BOARD_LACKS[lack] for lack in lacks])


def balance_wires_of(facts: JobFacts) -> bool:
    """Whether the pack has balance wires: as told, else where they were read or wired, else as is usual for its chemistry."""
    intake = facts.intake
    if intake.has_balance_wires is not None:
        return intake.has_balance_wires
    if facts.of_kind(WiringFact) or facts.joined:
        return True
    return WINDOWS[intake.pack.chemistry].family == "lithium" and intake.pack.series > 1


def sensors_of(facts: JobFacts) -> bool:
    """Whether the pack has a temperature sensor: as told, else as packs usually have."""
    return facts.intake.has_sensor is not False


def has_board(facts: JobFacts) -> bool:
    """Whether the pack has a board: one that was put in, else as told, else as is usual for its chemistry."""
    return board_of(facts).make != "none"


def board_since(facts: JobFacts) -> int:
    """The fact by which the board came in that is in the pack now; 0 for the one it came with."""
    return max((number for number, _, _ in _boards(facts)), default=0)


def _boards(facts: JobFacts) -> list[tuple[int, Board, bool]]:
    """Every board that was put in: by which fact, which, and whether somebody said so."""
    boards: list[tuple[int, Board, bool]] = [(f.id, f, True) for f in facts.recorded(BoardFact)]
    boards += [(f.id, f.became.board, True) for f in facts.recorded(TickFact) if f.became is not None and f.became.board is not None]  # fmt: skip
    for work in facts.recorded(WorkFact):
        if work.board is not None:
            boards.append((work.id, work.board, True))
        elif work.did == "replaced_part" and work.place.kind == "board":
            boards.append((work.id, usual_other(facts), False))
    return boards


def board_of(facts: JobFacts) -> NowBoard:
    """The board that is in the pack."""
    if boards := _boards(facts):
        _, board, said = max(boards, key=lambda one: one[0])
        return NowBoard(make=board.make, lacks=board.lacks, reported=said)
    intake = facts.intake
    has = intake.has_board if intake.has_board is not None else WINDOWS[intake.pack.chemistry].family == "lithium"
    return NowBoard(make="own" if has else "none", lacks=[], reported=intake.has_board is not None)


def charger_says(facts: JobFacts) -> str | None:
    """Which charger is right for a pack that was shortened, and that the one it came with is not; None for any other."""
    if not facts.structure.shifts:
        return None
    pack, came, window = facts.intake.pack, facts.as_told.pack, WINDOWS[facts.intake.pack.chemistry]
    if window.family == "nickel":
        return words.has_cells_in_series(pack.series, came.series)
    full = window.highest_charge_v
    return words.charge_it_only(pack.series, full, came.series)

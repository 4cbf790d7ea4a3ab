"""What `engine` says."""

from saldatura.battery.wording import percent

ANOTHER_REVISION_MAY_LACK = "another revision may lack the very circuit in doubt"
PROVE_IT_ON_SOUND = "prove it on a sound one before it is believed"
BOARD_TRIED = "The board tried was of another revision: it may lack the very circuit in doubt, so it counts for little."
CELLS_BEHIND_DOUBTFUL_WIRE = "The cells behind the doubtful wire are not proved: they were read through it."


def reference_boards_show_fault(boards_count: int) -> str:
    return (
        f"{boards_count} reference boards show a fault on this pack: doubt the pack they are tried on, not the boards."
    )


def doubt_fits_of_what(part: str, evidence: str, expected: float, why: str) -> str:
    return (
        f"Doubt the {part}: {evidence.replace('reference ', '')} fits {percent(expected)} of what else is known; {why}."
    )


def fits_little_of_rest(evidence: str) -> str:
    return f"“{evidence}” does not fit the rest: ask or look again."

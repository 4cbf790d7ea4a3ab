"""What `mends` says."""

from saldatura.battery.quantities import groups_words


def cell_for(wanted: int, to_go: tuple[int, ...]) -> str:
    return f"{wanted} cell{'s' if wanted > 1 else ''} for {groups_words(to_go).lower()}"

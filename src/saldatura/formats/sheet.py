"""The sheet that goes back with the pack, as PDF."""

from saldatura.core.assess import JobView


def render(view: JobView) -> bytes:
    """The sheet of a job."""
    return str(view.facts.id).encode()

"""Times of a pack: by its simulated clock where it has one, else by ours."""

from datetime import datetime, timedelta

from saldatura.battery.quantities import Value


class PackClock(Value):
    """The simulated clock of a job's virtual pack: its seconds, and how many of them pass in one of ours."""

    clock_s: float
    speed: float
    paused: bool


def own_seconds(since: datetime, since_clock_s: float | None, until: datetime, until_clock_s: float | None) -> float:
    """Seconds that passed for the pack itself: by its simulated clock where both moments have it, else by ours."""
    if since_clock_s is not None and until_clock_s is not None:
        return until_clock_s - since_clock_s
    return (until - since).total_seconds()


def ours(own_s: float, now: datetime, clock: PackClock | None) -> datetime:
    """The moment `own_s` seconds of the pack's own time from now, on our clock; as if it ran on where it is paused."""
    return now + timedelta(seconds=own_s / (clock.speed if clock else 1.0))

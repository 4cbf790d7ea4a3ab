"""Times as they are stored: ISO 8601, UTC, microseconds, so that text order is time order."""

from datetime import UTC, datetime


def now() -> datetime:
    """The time, aware, in UTC."""
    return datetime.now(UTC)


def to_text(time: datetime) -> str:
    """Aware datetime to text."""
    return time.astimezone(UTC).isoformat(timespec="microseconds")


def from_text(text: str) -> datetime:
    """Text back to an aware datetime."""
    return datetime.fromisoformat(text)

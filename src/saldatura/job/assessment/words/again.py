"""What `again` says."""


def read_before_work(place: str) -> str:
    return f"read before the work at {place}"


EARLY = "read before its rest was over"

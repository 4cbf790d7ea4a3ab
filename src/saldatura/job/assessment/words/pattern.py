"""What is said of a job beside its pattern."""

from saldatura.battery.wording import counted


def differs(field: str, theirs: str, ours: str) -> str:
    return f"{field}: {theirs or 'not told'} on the pattern, {ours} here"


def job_named(number: int) -> str:
    return f"job {number:04d}"


def photo_of_job(number: int) -> str:
    return f"photo of job {number:04d}"


def board_is_fed_by(groups: str) -> str:
    return f"Its board draws its own supply from {groups}."


def another_of_it(line: str) -> str:
    return f"One of them has it otherwise. {line}"


def cause_is_counted(cause: str, signed: bool) -> str:
    return f"{cause}: {'counted' if signed else 'counted once this job is signed with the cause confirmed'}"


def minutes_are_counted(minutes: float) -> str:
    return f"{counted(minutes, 'minute')} at the bench, with the repair"


def no_cause_is_counted() -> str:
    return "No cause is confirmed, so none is counted; confirm it in Judge, before the job is signed"


def taught_by(number: int) -> str:
    return f"taught by job {number:04d}"

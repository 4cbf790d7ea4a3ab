"""What the hands do next over all jobs, and where a job stands by what was done on it."""

from datetime import UTC, datetime, timedelta
from typing import get_args

from hypothesis import given
from hypothesis import strategies as st

from saldatura.job.assessment.hands import hands_next
from saldatura.job.assessment.next_step import NextStep
from saldatura.job.assessment.waiting import Waiting
from saldatura.job.stages import Stage

NOW = datetime(2026, 11, 30, 12, tzinfo=UTC)
ORDER = list(get_args(Stage))


def wait(job: int, kind: str, minutes: int) -> Waiting:
    done = NOW + timedelta(minutes=minutes)
    return Waiting(
        job_id=job, pack_name=f"pack {job}", kind=kind, group=1, charge_id=None, since=NOW - timedelta(hours=9), done_low=done, done=done,
        done_high=done, look_again=None,
    )  # fmt: skip


steps = st.dictionaries(st.integers(1, 30), st.tuples(st.sampled_from(ORDER), st.booleans()), max_size=12)
waits = st.dictionaries(
    st.integers(1, 30),
    st.tuples(st.sampled_from(["charge", "rest", "cure", "self_discharge"]), st.integers(-90, 90)),
    max_size=6,
)


@given(steps=steps, waits=waits)
def test_what_is_due_comes_first_and_nobody_is_sent_to_a_pack_that_waits(
    steps: dict[int, tuple[Stage, bool]], waits: dict[int, tuple[str, int]]
) -> None:
    told = [
        (
            job,
            f"pack {job}",
            NextStep(code="release" if held else "judge", stage="take_in" if held else stage, says="Do it"),
        )
        for job, (stage, held) in steps.items()
    ]
    acts = hands_next(told, [wait(job, kind, minutes) for job, (kind, minutes) in waits.items()], NOW)
    due = [a for a in acts if a.why == "due"]
    assert acts[: len(due)] == due
    assert {a.job_id for a in due} == {job for job, (_, minutes) in waits.items() if minutes <= 0}
    assert [waits[a.job_id][1] for a in due] == sorted(waits[a.job_id][1] for a in due)
    rest = acts[len(due) :]
    assert {a.job_id for a in rest} == set(steps) - set(waits)
    at = [(a.why == "held", -ORDER.index(a.stage)) for a in rest]
    assert at == sorted(at)

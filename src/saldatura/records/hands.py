"""What the hands do next, over all open jobs, in the time an answer may take: what is not known yet is told, and known at the next asking."""

import time
from typing import TYPE_CHECKING

from saldatura.battery.quantities import Value
from saldatura.job.assessment.hands import Hands, hands_next
from saldatura.job.assessment.next_step import NextStep
from saldatura.records import jobs

if TYPE_CHECKING:
    from saldatura.records.bench import Bench

# An answer is given after so long, s; jobs not looked at by then are counted.
ANSWER_S = 0.25


class HandsNow(Value):
    """The acts that want a hand now, in order, and each open job's next step. `pending`: jobs whose next step is still being computed."""

    acts: list[Hands]
    steps: dict[int, NextStep]
    pending: int


def hands(bench: "Bench") -> HandsNow:
    """What wants a hand now. A job whose next step cannot be told has none."""
    until, pending = time.monotonic() + ANSWER_S, 0
    found: list[tuple[int, str, NextStep | None]] = []
    for job_id in jobs.open_ones(bench.db.read()):
        try:
            mark = bench.mark(job_id)
            held = bench.steps.get(job_id)
            if held is None or held[0] != mark:
                if time.monotonic() > until:
                    pending += 1
                    continue
                view = bench.view(job_id)
                held = bench.steps[job_id] = (mark, view.facts.intake.pack_name, view.assessment.next)
            found.append((job_id, held[1], held[2]))
        except Exception:  # one job's trouble is not the day's; the list says what is wrong with it
            continue
    acts = hands_next(found, bench.waiting().waiting, bench.now())
    return HandsNow(acts=acts, steps={job: step for job, _, step in found if step is not None}, pending=pending)

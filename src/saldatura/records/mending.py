"""Which packs that wait the drawer's used cells would mend, in the time an answer may take."""

import time
from typing import TYPE_CHECKING

from saldatura.battery.plan.case import PlanCase
from saldatura.job.assessment.mends import Mends, may_mend, mends_of
from saldatura.job.assessment.planning import plan_request
from saldatura.job.facts import NewNeed
from saldatura.records import jobs

if TYPE_CHECKING:
    from saldatura.records.bench import Bench

# An answer on what the drawer mends is given after so long, s, with the packs that were judged by then.
MENDS_S = 0.5


def mends(bench: "Bench") -> Mends:
    """Which packs that wait the used cells of the drawer would mend; a job of which it cannot be told is named."""
    db, drawer, policy = bench.db.read(), bench.cells.drawer(), bench.policy()
    waiting, unread, pending, grades = [], list[str](), 0, bench.cells.grades(drawer)
    until = time.monotonic() + MENDS_S
    donors = any(c.took.donor and c.standing == "drawer" for c in drawer.cells.values())
    for job_id in jobs.on_the_bench(db) if donors else []:
        try:
            facts = bench.facts(job_id)
            if time.monotonic() > until and "judgement" not in facts.memo:
                pending += 1
                continue
            need, prices = facts.need or NewNeed(), bench.shop().prices
            unjudged = PlanCase(plan_request(facts, None, need, prices, policy), policy)
            if not may_mend(facts, unjudged, need.cell_size, drawer, grades):
                continue
            # Judging takes its time: what does not get its turn now is asked for again, and goes on from here.
            request = plan_request(facts, bench.judgement(job_id), need, prices, policy)
            waiting.append((facts, PlanCase(request, policy), need.cell_size))
        except Exception as error:  # one job's trouble is not the drawer's
            unread.append(f"Job {job_id:04d}: what it wants cannot be told ({error or type(error).__name__}).")
    return mends_of(waiting, drawer, grades).model_copy(update={"unread": unread, "pending": pending})

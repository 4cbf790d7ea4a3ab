"""Everything the program believes of a job, computed from its facts and the time."""

from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.judging import Judged, before_repair, judged, judged_now
from saldatura.job.assessment.levelling import LevelQuestion, begun, level_of
from saldatura.job.assessment.planning import JobPlan, plan_of
from saldatura.job.assessment.proof import proof_of
from saldatura.job.assessment.sets import Assessed, assess_set, compare_sets, span_point
from saldatura.job.assessment.shown import Assessment, JobView
from saldatura.job.assessment.thaw import judged_then
from saldatura.job.assessment.view import assess, opens_again, view_of
from saldatura.job.assessment.waiting import Driving, Waiting, WaitingList, waiting_of
from saldatura.ledger.clock import PackClock

__all__ = [
    "Assessed",
    "Assessment",
    "Driving",
    "GroupNow",
    "JobPlan",
    "JobView",
    "Judged",
    "LevelQuestion",
    "PackClock",
    "Waiting",
    "WaitingList",
    "assess",
    "assess_set",
    "before_repair",
    "begun",
    "compare_sets",
    "groups_now",
    "judged",
    "judged_now",
    "judged_then",
    "level_of",
    "opens_again",
    "plan_of",
    "proof_of",
    "span_point",
    "view_of",
    "waiting_of",
]

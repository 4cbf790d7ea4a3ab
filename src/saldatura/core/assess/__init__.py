"""Everything the program believes of a job, computed from its facts and the time."""

from saldatura.core.assess.clock import PackClock
from saldatura.core.assess.groups import GroupNow, groups_now
from saldatura.core.assess.judging import Judged, before_repair, judged, judged_now
from saldatura.core.assess.levelling import LevelQuestion, begun, level_of
from saldatura.core.assess.planning import JobPlan, plan_of
from saldatura.core.assess.proof import proof_of
from saldatura.core.assess.sets import Assessed, assess_set, compare_sets, span_point
from saldatura.core.assess.thaw import judged_then
from saldatura.core.assess.view import Assessment, JobView, assess, opens_again, view_of
from saldatura.core.assess.waiting import Driving, Waiting, WaitingList, waiting_of

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

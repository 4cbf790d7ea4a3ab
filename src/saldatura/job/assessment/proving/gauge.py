"""The pack's own gauge against the capacity that was measured."""

from saldatura.battery.limits.smart import GAUGE_SHARE
from saldatura.battery.measures.kinds.capacity import CapacityMeasure, of_one_group
from saldatura.battery.measures.kinds.registers_read import RegistersMeasure
from saldatura.job.assessment.equipped import board_since
from saldatura.job.assessment.proving.case import ProofCase
from saldatura.job.assessment.proving.types import Outcome, ProofTest
from saldatura.job.assessment.proving.words import gauge as words


def gauge(case: ProofCase) -> ProofTest | None:
    """What the chip says it holds when full, beside what was measured; None for a pack whose chip was never read. Nothing is held up by it: a
    gauge that is off misleads whoever looks at it, and charges nothing.
    """
    since = board_since(case.facts)
    read = [m.measure for m in case.facts.measures if isinstance(m.measure, RegistersMeasure) and m.id > since]
    if not read:
        return None
    base = ProofTest(
        name="gauge", label=words.GAUGE_AGAINST_CAPACITY, due=False, why=words.ITS_LAMPS_GO_BY_IT, bench_min=3, wait_h=0.0,
        limit=words.within_of_measured(GAUGE_SHARE),
    )  # fmt: skip
    say = read[-1].says
    full = say.full_ah
    if full is None and say.full_wh is not None and say.design_v:
        full = say.full_wh / say.design_v
    if full is None:
        return base.model_copy(update={"because": words.DID_NOT_SAY_HOW_MUCH})
    pack = case.facts.intake.pack
    measured = next(
        (
            m.measure.ah
            for m in reversed(case.facts.measures)
            if isinstance(m.measure, CapacityMeasure)
            and m.measure.group is None
            and not m.measure.at_least
            and not of_one_group(m.measure, pack)
        ),
        None,
    )
    if measured is None:
        return base.model_copy(update={"measured": words.says_it_holds(full), "because": words.MEASURE_ITS_CAPACITY})
    off = full / measured - 1
    outcome: Outcome = "pass" if abs(off) <= GAUGE_SHARE else "not_yet"
    because = words.GAUGE_IS_RIGHT if outcome == "pass" else words.let_it_learn(off)
    return base.model_copy(
        update={"measured": words.says_and_measured(full, measured), "outcome": outcome, "because": because}
    )

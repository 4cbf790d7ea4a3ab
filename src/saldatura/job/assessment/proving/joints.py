"""Tests of what was mended: sensors, movement, joints, the board's own limits."""

from collections.abc import Mapping

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.acceptance import APART_K, BOARD_WITHIN_V, JOINT_OHM, JOINT_WARMS_W
from saldatura.battery.measures.kinds.board_limits import BoardMeasure
from saldatura.battery.measures.kinds.joint import JointMeasure
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure
from saldatura.battery.measures.sensor import sense
from saldatura.job.assessment.proving.case import ProofCase, stale
from saldatura.job.assessment.proving.types import Outcome, ProofTest, outcome_of
from saldatura.job.assessment.proving.words import joints as words
from saldatura.job.facts import JobFacts


def sensors(case: ProofCase) -> ProofTest:
    """Each sensor at the room's warmth and at another: one that stands still is none, however well it reads the room."""
    touched = (
        case.board or case.joints or any("sensor" in getattr(w.place, "part", "").lower() for w in case.facts.works)
    )
    fact, fresh = case.last(SensorMeasure)
    asked = [
        m.measure.sensor for m in case.facts.measures if isinstance(m.measure, SensorMeasure) and m.id > case.since
    ]
    read = [(sense(sensor), sensor.ambient_c) for sensor in asked]
    wrong = next((sensed for sensed, _ in read if sensed.state != "believable"), None)
    said = [(sensed.celsius, room) for sensed, room in read if sensed.celsius is not None]
    rooms = [room for _, room in said]
    moved = bool(said) and max(rooms) - min(rooms) >= APART_K
    outcome: Outcome = outcome_of(fact is not None, fresh, wrong is None)
    if outcome == "pass" and not moved:
        outcome = "not_yet"
    because = (
        words.READ_IT
        if fact is None
        else stale(fresh, "reading")
        or (wrong.says if wrong is not None else "")
        or (words.reads_and_other_end(said[-1][0]) if not moved else words.READS_WARM_AND_COLD)
    )
    measured = ", ".join(words.at_celsius_room(celsius, room) for celsius, room in said[-3:])
    return ProofTest(
        name="sensors", label="Temperature sensors", due=touched, why=words.PACK_WAS_OPEN_WHERE if touched else words.NOTHING_NEAR_THEM,
        bench_min=3, wait_h=0.0, limit=words.WITHIN_OF_WHAT, measured=measured, outcome=outcome, because=because,
        then="judge" if outcome == "fail" else "",
    )  # fmt: skip


def wiggle(case: ProofCase) -> ProofTest:
    due = case.wires or case.joints
    fact, fresh = case.last(WiggleMeasure)
    measure = fact.measure if fact is not None and isinstance(fact.measure, WiggleMeasure) else None
    outcome = outcome_of(measure is not None, fresh, measure is not None and not measure.dropouts_s)
    because = (
        words.MOVE_WHAT_WAS_MENDED
        if measure is None
        else stale(fresh, "test")
        or (
            ("Nothing dropped out." if measure.dropped else words.NOTHING_DROPPED_OUT)
            if outcome == "pass"
            else words.DROPS_OUT_WHEN_MOVED
        )
    )
    return ProofTest(
        name="wiggle", label="Moved and dropped" if measure is None or measure.dropped else "Moved", due=due, why=words.WHAT_WAS_MENDED_MUST if due else words.NO_WIRE_AND_NO,
        bench_min=2, wait_h=0.0, limit="no drop-out", measured="" if measure is None else words.drop_outs(len(measure.dropouts_s), measure.seconds, measure.dropped), outcome=outcome, because=because, then="join" if outcome == "fail" else "",
        plain=words.MOVED_AND_DROPPED_NOTHING if measure is not None and measure.dropped else words.MOVED_WHILE_METER_WATCHED,
    )  # fmt: skip


def joint(case: ProofCase) -> ProofTest:
    amps = case.load_a
    most = min(JOINT_OHM, JOINT_WARMS_W / amps**2)
    fact, fresh = case.last(JointMeasure)
    measure = fact.measure if fact is not None and isinstance(fact.measure, JointMeasure) else None
    outcome = outcome_of(measure is not None, fresh, measure is not None and measure.ohm <= most)
    because = (
        words.READ_IT_FOUR_WIRE
        if measure is None
        else stale(fresh, "reading")
        or (words.adds_at(amps, measure.ohm) if outcome == "pass" else words.would_burn_at_make(amps, measure.ohm))
    )
    return ProofTest(
        name="joint", label=words.MENDED_JOINTS_BY_WHAT, due=case.did("rewelded", "resoldered"), why=words.JOINT_OF_ONES_OWN if case.did("rewelded", "resoldered") else words.NO_SINGLE_JOINT,
        bench_min=3, wait_h=0.0, limit=words.m_at_at_most(most, amps), measured=f"{1000 * measure.ohm:.2f} mΩ" if measure is not None else "", outcome=outcome, because=because, then="join" if outcome == "fail" else "",
    )  # fmt: skip


def board(case: ProofCase) -> ProofTest:
    window = WINDOWS[case.facts.intake.pack.chemistry]
    fact, fresh = case.last(BoardMeasure)
    measure = fact.measure if fact is not None and isinstance(fact.measure, BoardMeasure) else None
    over = measure is not None and measure.over_v is not None and measure.over_v > window.full_v + BOARD_WITHIN_V
    under = measure is not None and measure.under_v is not None and measure.under_v < window.hard_end_v - BOARD_WITHIN_V
    part = measure is not None and (measure.over_v is None or measure.under_v is None)
    outcome: Outcome = (
        "not_done"
        if measure is None
        else "not_yet"
        if not fresh
        else "fail"
        if over or under
        else "not_yet"
        if part
        else "pass"
    )
    because = (
        words.STAND_IN if measure is None
        else stale(fresh, "trial") or (words.LETS_GROUP_TOO_FAR if over or under else words.ONLY_ONE_OF_TWO if part else words.OPENS_WHERE_IT_SHOULD)
    )  # fmt: skip
    return ProofTest(
        name="board", label="Board's own limits", due=case.board, why=words.BOARD_WAS_PUT if case.board else words.BOARD_IS_ONE,
        bench_min=10, wait_h=0.0, limit=words.open_by(window.full_v, window.hard_end_v),
        measured="" if measure is None else ", ".join(x for x in (f"{measure.over_v:.2f} V" if measure.over_v else "", f"{measure.under_v:.2f} V" if measure.under_v else "") if x), outcome=outcome, because=because,
        caution=words.SUPPLY_AT_SENSE_POINT, then="judge" if outcome == "fail" else "",
    )  # fmt: skip


def reference(facts: JobFacts, distrusted: Mapping[int, str]) -> list[ProofTest]:
    """Swaps that trusted a part of the shop which was found at fault since: none of them told anything, until one with a sound part does."""
    left = [
        (tried, distrusted[tried.id])
        for tried in facts.tries
        if tried.id in distrusted
        and not any(
            later.id > tried.id and later.id not in distrusted and later.evidence.kind == "swap"
            for later in facts.tries
        )
    ]
    if not left:
        return []
    names = " and ".join(dict.fromkeys(name for _, name in left))
    return [
        ProofTest(
            name="reference", label=words.SWAP_WITH_SOUND_PART, due=True, why=words.WHAT_WAS_CONCLUDED,
            bench_min=5, wait_h=0.0, limit=words.REFERENCE_PART, measured=words.found_at_fault(names),
            outcome="fail", because=words.found_at_fault_since(names), then="judge",
        )
    ]  # fmt: skip

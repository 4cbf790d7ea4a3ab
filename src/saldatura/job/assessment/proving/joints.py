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
    wrong = next((of for of, _ in read if of.state != "believable"), None)
    said = [(of.celsius, room) for of, room in read if of.celsius is not None]
    rooms = [room for _, room in said]
    moved = bool(said) and max(rooms) - min(rooms) >= APART_K
    outcome: Outcome = outcome_of(fact is not None, fresh, wrong is None)
    if outcome == "pass" and not moved:
        outcome = "not_yet"
    because = (
        "Read it at its plug at the room's warmth, and again held warm in the hand or against something cold, each time with the warmth beside it."
        if fact is None
        else stale(fresh, "reading")
        or (wrong.says if wrong is not None else "")
        or (
            f"It reads {said[-1][0]:.0f} °C, and the other end is not read: once more held warm or cold, by {APART_K:.0f} K at least."
            if not moved
            else "It reads warm and cold as they are."
        )
    )
    measured = ", ".join(f"{celsius:.0f} °C at {room:.0f} °C" for celsius, room in said[-3:])
    return ProofTest(
        name="sensors", label="Temperature sensors", due=touched, why="The pack was open where its sensors are." if touched else "Nothing near them was touched.",
        bench_min=3, wait_h=0.0, limit="within 8 K of what is beside it, warm and cold", measured=measured, outcome=outcome, because=because,
        then="judge" if outcome == "fail" else "",
    )  # fmt: skip


def wiggle(case: ProofCase) -> ProofTest:
    due = case.wires or case.joints
    fact, fresh = case.last(WiggleMeasure)
    of = fact.measure if fact is not None and isinstance(fact.measure, WiggleMeasure) else None
    outcome = outcome_of(of is not None, fresh, of is not None and not of.dropouts_s)
    because = (
        "Move what was mended while a meter watches, ten seconds; then let the closed pack drop from a hand's breadth onto wood, and again."
        if of is None
        else stale(fresh, "test")
        or (
            ("Nothing dropped out." if of.dropped else "Nothing dropped out as it was moved; it was not dropped.")
            if outcome == "pass"
            else "It drops out when moved: the joint or its neighbour is not sound."
        )
    )
    return ProofTest(
        name="wiggle", label="Moved and dropped" if of is None or of.dropped else "Moved", due=due, why="What was mended must bear being moved." if due else "No wire and no joint was touched.",
        bench_min=2, wait_h=0.0, limit="no drop-out", measured="" if of is None else f"{len(of.dropouts_s)} drop-outs in {of.seconds:.0f} s of moving{', and dropped' if of.dropped else ''}", outcome=outcome, because=because, then="join" if outcome == "fail" else "",
        plain="moved and dropped, nothing dropped out" if of is not None and of.dropped else "moved while a meter watched, nothing dropped out",
    )  # fmt: skip


def joint(case: ProofCase) -> ProofTest:
    amps = case.load_a
    most = min(JOINT_OHM, JOINT_WARMS_W / amps**2)
    fact, fresh = case.last(JointMeasure)
    of = fact.measure if fact is not None and isinstance(fact.measure, JointMeasure) else None
    outcome = outcome_of(of is not None, fresh, of is not None and of.ohm <= most)
    because = (
        "Read it four-wire across the mended joint; the load step tells it too."
        if of is None
        else stale(fresh, "reading")
        or (
            f"It adds {amps**2 * of.ohm:.2f} W at {amps:.3g} A."
            if outcome == "pass"
            else f"It would burn {amps**2 * of.ohm:.1f} W at {amps:.3g} A: make it anew."
        )
    )
    return ProofTest(
        name="joint", label="Mended joints by what they add", due=case.did("rewelded", "resoldered"), why="A joint of one's own is proved by its resistance." if case.did("rewelded", "resoldered") else "No single joint was mended.",
        bench_min=3, wait_h=0.0, limit=f"{1000 * most:.2f} mΩ: {JOINT_WARMS_W:g} W at {amps:.3g} A at the most", measured=f"{1000 * of.ohm:.2f} mΩ" if of is not None else "", outcome=outcome, because=because, then="join" if outcome == "fail" else "",
    )  # fmt: skip


def board(case: ProofCase) -> ProofTest:
    window = WINDOWS[case.facts.intake.pack.chemistry]
    fact, fresh = case.last(BoardMeasure)
    of = fact.measure if fact is not None and isinstance(fact.measure, BoardMeasure) else None
    over = of is not None and of.over_v is not None and of.over_v > window.full_v + BOARD_WITHIN_V
    under = of is not None and of.under_v is not None and of.under_v < window.hard_end_v - BOARD_WITHIN_V
    part = of is not None and (of.over_v is None or of.under_v is None)
    outcome: Outcome = (
        "not_done"
        if of is None
        else "not_yet"
        if not fresh
        else "fail"
        if over or under
        else "not_yet"
        if part
        else "pass"
    )
    because = (
        "On the stand-in, or with a supply on one sense point and the cells off: never by over-charging or emptying the cells." if of is None
        else stale(fresh, "trial") or ("It lets a group too far: the cells are not guarded." if over or under else "Only one of the two limits was tried." if part else "It opens where it should.")
    )  # fmt: skip
    return ProofTest(
        name="board", label="Board's own limits", due=case.board, why="A board was put in or mended: what guards the cells is proved." if case.board else "The board is the one that was in.",
        bench_min=10, wait_h=0.0, limit=f"open by {window.full_v + BOARD_WITHIN_V:.2f} V and by {window.hard_end_v - BOARD_WITHIN_V:.2f} V a group",
        measured="" if of is None else ", ".join(x for x in (f"{of.over_v:.2f} V" if of.over_v else "", f"{of.under_v:.2f} V" if of.under_v else "") if x), outcome=outcome, because=because,
        caution="A supply at a sense point: the plug off the cells first, its current held to some milliamps.", then="judge" if outcome == "fail" else "",
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
            name="reference", label="Swap with a sound part", due=True, why="What was concluded from a swap rests on the part that was put.",
            bench_min=5, wait_h=0.0, limit="a reference part that was proved since", measured=f"{names} was found at fault",
            outcome="fail", because=f"{names} was found at fault since: the swap told nothing. Swap again with a part that is proved.", then="judge",
        )
    ]  # fmt: skip

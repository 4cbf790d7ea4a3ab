"""After the block is built: a temporary harness for one levelling charge, the trial charge, the look next morning, the closed case."""

from collections.abc import Iterator

from saldatura.battery.join.parts import FOR_CHARGER, WRAPS
from saldatura.battery.join.steps import Ask, BuildCase, Wait, WorkStep, key, pin_to_read, put_back, rounded_v
from saldatura.battery.join.words import finish as words
from saldatura.battery.join.words.steps import IRON, JOINT_COVERED
from saldatura.battery.limits.joining import MORNING_V, TRIAL_V


def harness_on(case: BuildCase) -> Iterator[WorkStep]:
    """A wire on each tap for one charge, minus first, each read before the next."""
    for tap in range(case.series + 1):
        yield WorkStep(
            key=key("harness_on", tap), joint=words.harness_wire(tap), do="solder", exposed_v=rounded_v(case.at(tap)), taps=[tap], insulate=[JOINT_COVERED], tool=IRON,
            because=words.MINUS_FIRST if tap == 0 else words.READ_BEFORE_NEXT, asks=pin_to_read(case, tap) if tap else None,
        )  # fmt: skip


def closing(case: BuildCase) -> Iterator[WorkStep]:
    """What is done before the case is closed for good; nothing of it about a thing that the pack has not."""
    total = max(case.at(case.series), (case.full_v or 0.0) * case.in_string)
    for tap in reversed(range(case.series + 1 if case.harness and case.work == "rebuild" else 0)):
        yield WorkStep(
            key=key("harness_off", tap), joint=words.harness_wire_off(tap), do="take_off", exposed_v=rounded_v(case.at(tap)), taps=[tap], insulate=[JOINT_COVERED], tool=IRON,
            because=words.LEVELLED_THROUGH_IT,
        )  # fmt: skip
    yield from put_back(case, total, FOR_CHARGER)
    left = case.in_string - (case.work == "drop_group")
    full = None if case.full_v is None else rounded_v(left * case.full_v)
    yield WorkStep(
        key=key("trial_charge"), joint=words.TRIAL_CHARGE, do="charge", exposed_v=rounded_v(total), because=words.trial_because(case.wired),
        asks=None if full is None else Ask(what=words.AT_REST_AFTER, expected_v=full, within_v=round(TRIAL_V * left, 3)),
    )  # fmt: skip
    yield WorkStep(
        key=key("overnight"), joint=words.OVERNIGHT, do="leave", exposed_v=rounded_v(total), because=words.LEAK_SHOWS,
        wait=Wait(kind="rest", minutes=case.night_h * 60),
    )  # fmt: skip
    yield WorkStep(
        key=key("morning"), joint=words.IN_THE_MORNING, do="look", exposed_v=rounded_v(total), because=words.second_look(case.wired),
        asks=None if full is None else Ask(what=words.SAME_PLACES, expected_v=full, within_v=round(MORNING_V * left, 3)),
    )  # fmt: skip
    yield from put_back(case, 0.0, WRAPS)
    yield WorkStep(key=key("case_closed"), joint=words.CASE_CLOSED, do="close", exposed_v=0.0, because=words.AS_IT_WAS)
    yield WorkStep(key=key("device_run"), joint=words.IN_DEVICE, do="run", exposed_v=0.0, because=words.EVERY_RUN_KEPT)

"""Taking a pack apart for good: plug and leads off, the string halved, each cell's ends taped, the best to the tester, the rest weighed."""

from collections.abc import Iterator

from saldatura.battery.join.parts import OVER_BLOCK
from saldatura.battery.join.steps import Bare, BuildCase, WorkStep, freed, key, named, rounded_v
from saldatura.battery.join.strings import joint_key, joints_of, taken_down
from saldatura.battery.join.words import for_good as words
from saldatura.battery.join.words.steps import CUTTERS, IRON


def apart_for_good(case: BuildCase, bare: Bare) -> Iterator[WorkStep]:
    """Down to single cells: what is worth a test is tested, everything else is weighed by kind."""
    yield from freed(case, bare, OVER_BLOCK)
    joints = joints_of(case)
    by_name = {j.joint: j for j in joints}
    for step in taken_down(case, joints, "open").steps:
        joint = by_name[step.joint]
        yield WorkStep(
            key=joint_key(case, joint, "open"), joint=step.joint, do="pull" if joint.kind == "plug" else "cut", exposed_v=step.exposed_v, insulate=step.insulate,
            because=step.because, tool="" if joint.kind == "plug" else CUTTERS if joint.kind == "link" else IRON, taps=[joint.tap], strip=joint.kind == "link",
        )  # fmt: skip
    most = rounded_v(max((abs(v) for v in case.volts), default=0.0))
    for group, cells in case.cells.items():
        yield WorkStep(
            key=key("tape", group), joint=words.ends_of(group, named(cells)), do="tape", exposed_v=most, cells=list(cells), because=words.EACH_END_COVERED,
        )  # fmt: skip
    for group in case.worth_testing:
        yield WorkStep(
            key=key("test", group), joint=words.to_the_tester(group), do="test", exposed_v=0.0, cells=list(case.cells[group]), because=words.UNFINISHED_IS_RESULT,
        )  # fmt: skip
    for waste in case.waste:
        yield WorkStep(
            key=key("weigh", waste.kind), joint=words.by_weight(waste.called, waste.kg), do="weigh", exposed_v=0.0, because=words.WASTE_BY_KIND,
        )  # fmt: skip

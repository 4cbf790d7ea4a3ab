"""Gates of the block: a map that can be, cells read before they are joined, steps in their order, a coupon before the first weld."""

from saldatura.battery.errors import Impossible
from saldatura.battery.join.pack_map import pack_map
from saldatura.battery.limits.policy import Policy
from saldatura.job.assessment.block import block_of
from saldatura.job.assessment.block_strips import map_request
from saldatura.job.assessment.block_work import ListedStep, WorkList
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import NewTick
from saldatura.job.gates import common as gates
from saldatura.job.gates import words
from saldatura.shop.block import NewBlock


def block(facts: JobFacts, new: NewBlock) -> None:
    """A block of a pack that may be worked on, whose map can be."""
    gates.work(facts)
    block_there(facts, new)


def block_there(facts: JobFacts, new: NewBlock) -> None:
    """The map must be one, and what is to be done must be possible. Raises Impossible naming its cells, or the field."""
    made = pack_map(map_request(facts, new))
    if new.method.by == "solder" and new.method.tabs == "aluminium":
        raise Impossible("method.tabs", "aluminium_takes_no_solder", words.ALUMINIUM_TAKES_NO_SOLDER)
    series = facts.intake.pack.series
    beyond = next((g for g in new.work_groups if g > series), None)
    if beyond is not None:
        raise Impossible("work_groups", "no_such_group", words.there_is_no_group(beyond, series))
    cells = {c.cell for c in made.cells}
    for spot in new.sensors:
        lost = next((c for c in spot.between if c not in cells), None)
        if lost is not None:
            raise Impossible("sensors", "sensor_lost", words.placed_against_and_map(spot.sensor, lost))


def step_of(facts: JobFacts, new: NewTick, policy: Policy) -> tuple[WorkList, ListedStep]:
    """The list and its step that a tick is for. Raises Impossible where there is none."""
    block = block_of(facts, policy)
    work = next((found for found in block.lists if found.name == new.list), None)
    if work is None:
        names = ", ".join(found.name for found in block.lists) or (block.lists_stop or "none")
        raise Impossible("list", "no_such_list", words.there_is_no_list(new.list, names))
    step = next((s for s in work.steps if s.key == new.step), None)
    if step is None:
        raise Impossible("step", "no_such_step", words.list_has_no(new.step))
    return work, step

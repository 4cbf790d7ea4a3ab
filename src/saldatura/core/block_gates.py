"""Gates of the block: a map that can be, cells read before they are joined, steps in their order."""

from saldatura.core import gates
from saldatura.core.assess.block import block_of, map_request
from saldatura.core.errors import Impossible
from saldatura.core.facts import JobFacts
from saldatura.core.facts.block import NewBlock, NewPolarity, NewTick
from saldatura.core.join.pack_map import pack_map
from saldatura.core.policy import Policy


def block(facts: JobFacts, new: NewBlock) -> None:
    """A block of a pack that may be worked on, whose map can be."""
    gates.work(facts)
    block_there(facts, new)


def block_there(facts: JobFacts, new: NewBlock) -> None:
    """The map must be one. Raises Impossible naming its cells."""
    pack_map(map_request(facts, new))


def polarity(facts: JobFacts, new: NewPolarity, policy: Policy) -> None:
    """A cell of the block, read in its place."""
    gates.work(facts)
    if all(c.cell != new.cell for c in block_of(facts, policy).map.cells):
        raise Impossible("cell", f"the map has no cell {new.cell}")


def tick(facts: JobFacts, new: NewTick, policy: Policy) -> None:
    """A step of the list in its order; nothing is joined while a cell stands wrong or is not read."""
    gates.work(facts)
    gates.not_charging(facts)
    block = block_of(facts, policy)
    work = block.down if new.list == "open" else block.up
    if all(s.joint != new.joint for s in work.steps):
        raise Impossible("joint", f"the list has no {new.joint}")
    if any(s.joint == new.joint and s.done for s in work.steps):
        raise gates.Refused("done", f"{new.joint} is ticked off already")
    if work.next != new.joint:
        raise gates.Refused("order", f"{work.next} comes first: it leaves less bare")
    if new.list == "close" and block.stop is not None:
        raise gates.Refused("polarity", block.stop)

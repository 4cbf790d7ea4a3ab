"""The `power-path` computation: a chain of nodes from the string to the terminals, the part that fails, the next probe.

The fault lies between the last node that has the string's voltage and the first that has not. The next probe is the node
that tells most about which part it is, by how often each part fails (entropy of the answer), for the time its touch takes.
"""

import math
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.limits.measuring import DIODE_HIGH_V, DIODE_LOW_V, HAS_IT, SIGN_SHARE
from saldatura.battery.quantities import PositiveVolts, Value, Volts, Words
from saldatura.battery.string import words

TemplateName = Literal["high_side", "low_side", "fuse_only", "thermal_fuse"]


NodeState = Literal["has", "diode", "gone", "reversed"]


def node_state(volts: float, string_v: float) -> NodeState:
    """What a node's voltage says: it has the string's, a diode's drop less, not, or the other sign."""
    lost = string_v - volts
    if volts <= -SIGN_SHARE * string_v:
        return "reversed"
    if DIODE_LOW_V <= lost <= DIODE_HIGH_V:
        return "diode"
    return "has" if lost <= HAS_IT * string_v and lost < DIODE_LOW_V else "gone"


class Part(Value):
    """What lies before a node: how often it is the one that fails, and how long the node takes to reach, minutes."""

    node: Annotated[Words, Field(min_length=1, max_length=60)] = Field(description="Where it is touched.")
    part: Annotated[Words, Field(min_length=1, max_length=60)] = Field(
        description="The part that lies before the node."
    )
    fails: Annotated[float, Field(gt=0, le=1000)] = Field(
        1.0, description="How often this part is the one, against the others. Default 1."
    )
    minutes: Annotated[float, Field(gt=0, le=240)] = Field(
        1.0, description="Minutes that a touch of this node takes. Default 1."
    )
    volts: Volts | None = Field(None, description="Volts of the node against the other pole. Default: not read.")


class PathRequest(Value):
    """The chain from the string outward, each node with its volts against the other pole where it was read."""

    string_v: PositiveVolts = Field(description="Voltage of the string, V.")
    chain: Annotated[list[Part], Field(min_length=1, max_length=30)] = Field(
        description="Nodes of the power path from the string outward."
    )


class Suspect(Value):
    """A part and how likely it is the one."""

    part: str = Field(description="The part that lies before the node.")
    probability: float = Field(description="How likely it is the one, 0–1.")


class Path(Value):
    """Where the voltage is lost: after node `good`, before node `gone` (None: the string, or not seen yet). `finding`: what else the
    readings tell: a sign that is not the string's, or a switch that is off and conducts by its body diode.
    """

    finding: Literal["polarity", "body_diode"] | None = Field(
        None,
        description="What else the readings tell: `polarity`, a sign that is not the string's; `body_diode`, a switch that is off. None: neither.",
    )
    good: str | None = Field(description="Last node that has the voltage; None: not read, or the string itself.")
    gone: str | None = Field(description="First node without the voltage; None: not lost as far as read.")
    suspects: list[Suspect] = Field(description="The parts it may be, likeliest first.")
    next_node: str | None = Field(description="Node to touch next; None: nothing more to learn.")
    says: str = Field(description="What it means, in words.")


TEMPLATES: dict[TemplateName, list[Part]] = {
    "high_side": [
        Part(node="after the fuse", part="fuse", fails=3, minutes=1),
        Part(node="between the switches", part="discharge switch", fails=4, minutes=3),
        Part(node="after the switches", part="charge switch", fails=3, minutes=3),
        Part(node="at the contact", part="strip and joint to the contact", fails=2, minutes=1),
        Part(node="at the terminal", part="contact", fails=4, minutes=0.5),
    ],
    "low_side": [
        Part(node="after the shunt", part="shunt and its joints", fails=1, minutes=2),
        Part(node="between the switches", part="discharge switch", fails=4, minutes=3),
        Part(node="after the switches", part="charge switch", fails=3, minutes=3),
        Part(node="at the terminal", part="contact", fails=4, minutes=0.5),
    ],
    "thermal_fuse": [
        Part(node="after the thermal fuse", part="thermal fuse", fails=4, minutes=4),
        Part(node="after the fuse", part="fuse", fails=3, minutes=1),
        Part(node="at the terminal", part="contact", fails=4, minutes=0.5),
    ],
    "fuse_only": [
        Part(node="after the fuse", part="fuse", fails=3, minutes=1),
        Part(node="at the terminal", part="contact", fails=4, minutes=0.5),
    ],
}


def power_path(request: PathRequest) -> Path:
    """Where the voltage is lost, and where to touch next. Never fails."""
    chain = request.chain
    states = [None if p.volts is None else node_state(p.volts, request.string_v) for p in chain]
    turned = [i for i, state in enumerate(states) if state == "reversed"]
    if turned:
        node, volts = chain[turned[0]].node, chain[turned[0]].volts or 0.0
        says = words.reads_where_string_has(node, volts, request.string_v)
        return Path(finding="polarity", good=None, gone=None, suspects=[], next_node=node, says=says)
    # A diode passes the voltage on, a drop lower: all nodes behind it are seen through it.
    through = next((i for i, state in enumerate(states) if state == "diode"), None)
    if through is not None:
        return _through_diode(request, states, through)
    has = [None if state is None else state == "has" for state in states]
    last_good = max((i for i, h in enumerate(has) if h), default=-1)
    first_gone = next((i for i, h in enumerate(has) if h is False), None)
    back = next((i for i, h in enumerate(has) if h and first_gone is not None and i > first_gone), None)
    if back is not None and first_gone is not None:
        inner, outer = chain[first_gone].node, chain[back].node
        says = words.lacks_voltage_that_further(inner, outer)
        return Path(good=None, gone=None, suspects=[], next_node=inner, says=says)
    end = first_gone if first_gone is not None else len(chain) - 1
    within = chain[last_good + 1 : end + 1]
    if first_gone is None and last_good == len(chain) - 1:
        says = words.VOLTAGE_IS_THERE_ALL
        return Path(good=chain[-1].node, gone=None, suspects=[], next_node=None, says=says)
    total = sum(p.fails for p in within)
    suspects = [Suspect(part=p.part, probability=round(p.fails / total, 3)) for p in within]
    between = [i for i in range(last_good + 1, end + (first_gone is None)) if has[i] is None]
    next_at = max(between, key=lambda i: _worth(chain, last_good, end, i), default=None)
    good = chain[last_good].node if last_good >= 0 else None
    gone = chain[first_gone].node if first_gone is not None else None
    return Path(
        good=good,
        gone=gone,
        suspects=sorted(suspects, key=lambda s: -s.probability),
        next_node=None if next_at is None else chain[next_at].node,
        says=_says(good, gone, within, None if next_at is None else chain[next_at].node),
    )


def _through_diode(request: PathRequest, states: list[NodeState | None], at: int) -> Path:
    """The part before node `at` is a switch that is off, seen through its body diode."""
    chain = request.chain
    before = max((i for i in range(at) if states[i] == "has"), default=-1)
    within = chain[before + 1 : at + 1]
    likely = [p for p in within if "switch" in p.part.lower()] or within
    total = sum(p.fails for p in likely)
    open_ = [i for i in range(before + 1, at) if states[i] is None]
    lost = request.string_v - (chain[at].volts or 0.0)
    return Path(
        finding="body_diode",
        good=chain[before].node if before >= 0 else None,
        gone=chain[at].node,
        suspects=sorted(
            (Suspect(part=p.part, probability=round(p.fails / total, 3)) for p in likely), key=lambda x: -x.probability
        ),
        next_node=chain[max(open_, key=lambda i: _worth(chain, before, at, i))].node if open_ else None,
        says=words.lost_before_body_diode(lost, chain[at].node, likely[0].part),
    )


def _worth(chain: list[Part], last_good: int, end: int, at: int) -> float:
    """Bits that a touch at node `at` tells, a minute of reaching it."""
    inside = sum(p.fails for p in chain[last_good + 1 : at + 1])
    whole = sum(p.fails for p in chain[last_good + 1 : end + 1])
    share = inside / whole
    bits = 0.0 if share in (0.0, 1.0) else -share * math.log2(share) - (1 - share) * math.log2(1 - share)
    # The outermost node of a chain nobody touched yet tells whether there is a fault at all.
    return max(bits, 0.5 if at == len(chain) - 1 else 0.0) / (1 + chain[at].minutes)


def _says(good: str | None, gone: str | None, within: list[Part], next_node: str | None) -> str:
    if gone is None:
        return words.not_lost_yet(next_node) if next_node else words.NOT_LOST_AS_FAR
    where = words.between_and(good, gone) if good else f"before “{gone}”"
    if next_node is None:
        gate = words.SWITCH_IS_JUDGED if "switch" in within[0].part.lower() else ""
        return words.lost_where_part_gate(where, within[0].part, gate)
    return words.lost_touch_next(where, next_node)

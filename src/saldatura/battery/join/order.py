"""The `take-down` computation: in which order joints are cut, or made, so that the least voltage ever lies bare.

Every bare point carries the voltage of its tap. What a tool can bridge is the largest difference between two bare points of one
connected string: cutting the string in its middle halves it. Strips count as bare for as long as the string is.
"""

import itertools
import re
from collections import Counter
from functools import cache
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Impossible, Misfit
from saldatura.battery.join.words import order as words
from saldatura.battery.join.words.strings import JOINED_LAST, PARTED_FIRST
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.quantities import CellVolts, Series, TapNumber, Value, Words

Kind = Literal["link", "lead", "sense", "plug", "tie"]
MOST_JOINTS = 120


class Joint(Value):
    """A joint and the tap it is at: a link between groups, a main lead, a sense wire, a plug that parts board and string, or
    what ties strings side by side at an end. Where `kind` is left
    out a name that says it is taken at its word; any other joint counts as a wire, and its kind is asked for."""

    joint: Annotated[Words, Field(min_length=1, max_length=60)] = Field(description="Name of the joint.")
    tap: TapNumber = Field(description="Number of the tap, from 0 at pack minus.")
    kind: Kind | None = Field(
        None,
        description="A link between groups, a main lead, a sense wire, a plug, or a tie of strings side by side. Default: what its name says, else a wire, and it is asked for.",
    )


class TakeDownRequest(Value):
    """A string and the joints to cut (`open`) or to make (`close`)."""

    series: Series = Field(description="Groups in series.")
    group_v: Annotated[CellVolts, Field(gt=0)] = Field(description="Voltage of a group, V.")
    joints: Annotated[list[Joint], Field(min_length=1, max_length=MOST_JOINTS)] = Field(
        description="The joints to cut or to make."
    )
    aim: Literal["open", "close"] = Field(
        "open", description="Whether the string is taken down or built up. Default: taken down."
    )

    @model_validator(mode="after")
    def _there(self) -> Self:
        beyond = next((j for j in self.joints if j.tap > self.series), None)
        if beyond is not None:
            raise Misfit("joints", "joint_beyond", words.joint_is_at_tap(beyond.joint, beyond.tap, self.series))
        twice = next((name for name, n in Counter(j.joint for j in self.joints).items() if n > 1), None)
        if twice is not None:
            raise Misfit("joints", "listed_twice", words.joint_is_listed_twice(twice))
        return self


class TakeDownStep(Value):
    """One action: what lies bare after it, and what is covered before the next."""

    joint: str = Field(description="Name of the joint.")
    do: Literal["cut", "join"] = Field(description="What is done to the joint.")
    exposed_v: float = Field(description="Largest voltage between two points that are bare after the step, V.")
    insulate: list[str] = Field(description="What is covered before the next step.")
    because: str = Field(description="Why, in a technician's words.")


class TakeDown(Value):
    """The steps in order. `peak_v`: the largest voltage bare after any link; `before_v`: what lies bare before the first; `asked`: joints
    whose kind nobody told, taken for wires."""

    steps: list[TakeDownStep] = Field(description="One action each, in order.")
    peak_v: float = Field(description="Largest voltage bare after any step, V.")
    before_v: float = Field(description="Voltage that lies bare before the first step, V.")
    asked: list[str] = Field([], description="Joints whose kind nobody told: they count as wires until it is.")


def take_down(request: TakeDownRequest) -> TakeDown:
    """The order of least peak voltage, then of least voltage on the way. Raises Impossible for a string above the voltage limit, two links at
    one tap, and one at an end."""
    whole_v = request.series * request.group_v
    if whole_v > DEFAULT_POLICY.pack_limit_v:
        raise Impossible(
            "series", "above_low_voltage", words.series_at_are_above(request.series, request.group_v, whole_v)
        )
    links = [j for j in request.joints if _kind(j, request.series) == "link"]
    ends = next((j for j in links if not 0 < j.tap < request.series), None)
    if ends is not None:
        raise Impossible("joints", "no_link_there", words.link_at_tap_link(ends.joint, ends.tap))
    twice = next((tap for tap, n in Counter(j.tap for j in links).items() if n > 1), None)
    if twice is not None:
        raise Impossible("joints", "two_links_at_tap", words.two_links_are_listed(twice))
    order = [
        next(j for j in links if j.tap == tap)
        for tap in halving(0, request.series, tuple(sorted(j.tap for j in links)))
    ]

    def joints_of_kind(*kinds: Kind) -> list[Joint]:
        return sorted(
            (j for j in request.joints if _kind(j, request.series) in kinds),
            key=lambda j: (kinds.index(_kind(j, request.series)), j.tap),
        )

    # Opened, plug and main leads come off first, or the board ties the halves together; then the string is cut apart, and the wires come
    # off halves that carry little. Closed, the other way about: the leads after the links, the wires, and the plug last of all.
    sequence = (
        [*joints_of_kind("plug", "lead", "tie"), *order, *joints_of_kind("sense")]
        if request.aim == "open"
        else [*reversed(order), *joints_of_kind("tie", "lead", "sense", "plug")]
    )
    cut = set() if request.aim == "open" else {j.tap for j in links}
    before = _exposed(request, cut)
    steps = []
    for joint in sequence:
        kind = _kind(joint, request.series)
        if kind == "link":
            cut = cut | {joint.tap} if request.aim == "open" else cut - {joint.tap}
        exposed = _exposed(request, cut)
        steps.append(
            TakeDownStep(
                joint=joint.joint,
                do="cut" if request.aim == "open" else "join",
                exposed_v=round(exposed, 4),
                insulate=insulate(joint, kind, request.aim),
                because=because(request, joint, kind, exposed),
            )
        )
    return TakeDown(
        steps=steps,
        peak_v=max(_after_links(steps, {j.joint for j in links}) or [s.exposed_v for s in steps]),
        before_v=round(before, 4),
        asked=[j.joint for j in request.joints if _told_kind(j, request.series) is None],
    )


def _after_links(steps: list[TakeDownStep], links: set[str]) -> list[float]:
    """What lies bare after each link: plugs and leads that come off before lay nothing bare that was not."""
    return [s.exposed_v for s in steps if s.joint in links]


# Words in a joint's name that say what it is.
PLUG_WORDS = ("plug", "connector")
SENSE_WORDS = ("sense", "balance")
LEAD_WORDS = ("main", "lead", "take-off", "take off")
LINK_WORDS = ("link", "strip", "mid", "middle", "busbar", "bar", "bus", "weld", "tab", "interconnect", "nickel", "cut")


def _told_kind(joint: Joint, series: int) -> Kind | None:
    """What a joint is by its kind or by its name; None where neither says it."""
    if joint.kind is not None:
        return joint.kind
    words = set(re.findall(r"[a-z]+(?:[- ]off)?", joint.joint.casefold()))

    def says(wanted: tuple[str, ...]) -> bool:
        return any(word in words or any(w.rstrip("s") == word for w in words) for word in wanted)

    if says(PLUG_WORDS):
        return "plug"
    if says(LEAD_WORDS[:1]) or (says(LEAD_WORDS) and not says(SENSE_WORDS)):
        return "lead"
    if says(SENSE_WORDS):
        return "sense"
    return "link" if says(LINK_WORDS) and 0 < joint.tap < series else None


def _kind(joint: Joint, series: int) -> Kind:
    """The same; what nobody told is a wire: cut alone, and covered before the next."""
    return _told_kind(joint, series) or ("lead" if joint.tap in (0, series) else "sense")


@cache
def halving(low: int, high: int, taps: tuple[int, ...]) -> tuple[int, ...]:
    """Links in the order that leaves the least bare: the one nearest the middle, then the larger part's, by search of each choice."""
    inside = tuple(t for t in taps if low < t < high)
    if not inside:
        return ()
    best = min(inside, key=lambda t: (max(t - low, high - t), t))
    left, right = list(halving(low, best, inside)), list(halving(best, high, inside))
    # The larger part is what lies bare: its next cut comes first.
    merged: list[int] = []
    parts = [(low, best, left), (best, high, right)]
    while any(rest for *_, rest in parts):
        k = max((k for k, (*_, rest) in enumerate(parts) if rest), key=lambda k: parts[k][1] - parts[k][0])
        a, b, rest = parts.pop(k)
        tap = rest.pop(0)
        merged.append(tap)
        parts += [(a, tap, [t for t in rest if t < tap]), (tap, b, [t for t in rest if t > tap])]
    return (best, *merged)


def _exposed(request: TakeDownRequest, cut: set[int]) -> float:
    """The longest string that hangs together, in volts."""
    ends = [0, *sorted(cut - {0, request.series}), request.series]
    return max(b - a for a, b in itertools.pairwise(ends)) * request.group_v


def insulate(joint: Joint, kind: Kind, aim: str) -> list[str]:
    if aim == "close":
        return [f"everything beside {joint.joint}"]
    if kind == "sense":
        return [words.end_of_before_next(joint.joint)]
    if kind == "plug":
        return [words.pins_of(joint.joint)]
    return [words.both_ends(joint.joint)]


def because(request: TakeDownRequest, joint: Joint, kind: Kind, exposed: float) -> str:
    if kind == "link":
        if request.aim == "open":
            return words.cut_at_tap_no(joint.tap, exposed)
        return words.joined_at_tap_longest(joint.tap, exposed)
    if kind == "tie":
        return PARTED_FIRST if request.aim == "open" else JOINED_LAST
    if kind == "plug":
        return words.OFF_FIRST_THROUGH_BOARD if request.aim == "open" else words.LAST_OF_ALL
    if kind == "sense":
        return words.ONE_WIRE_AT_TIME if request.aim == "open" else words.READ_ITS_PIN_BEFORE
    return words.LEAD_OF_PACKS_OWN if request.aim == "open" else words.PACKS_OWN_LEAD_AFTER

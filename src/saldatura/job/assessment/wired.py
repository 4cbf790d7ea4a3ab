"""A job's wiring: each pin of its connectors with the wire, what it must read, what it read, and what another board would see."""

from collections.abc import Mapping, Sequence
from typing import Protocol

from saldatura.battery.join.steps import WorkKind
from saldatura.battery.join.wiring import Connector, PinWire, wanted_taps
from saldatura.battery.join.words.joints import pin_says
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.equipped import balance_wires_of
from saldatura.job.assessment.known_of_model import connectors_of_model
from saldatura.job.assessment.words import wired as words
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import NewWiring, PinReadFact, WiringFact

BALANCE = "balance"


class WireRow(Value):
    """A pin: the wire in it, where it goes, the volts to expect against pack minus and within how much, what it read and what that
    says. `other_tap`, `other_wants_v`: the tap and the volts that a board of another make wants there.
    """

    pin: int
    wire: str
    tap: int | None
    sensor: str | None
    says: str
    expected_v: float | None
    within_v: float
    read_v: float | None
    wrong: str | None
    other_tap: int | None
    other_wants_v: float | None


class WiredConnector(Value):
    """A connector with its pins."""

    name: str
    rows: list[WireRow]


class Wiring(Value):
    """The connectors; `next`: the pin to read next; `other_says`: what comes of plugging another board in as it is pinned."""

    entered: NewWiring
    connectors: list[WiredConnector]
    next_connector: str | None
    next_pin: int | None
    stop: str | None
    other_says: str | None


class _Done(Protocol):
    @property
    def name(self) -> str: ...
    @property
    def next(self) -> str | None: ...


def connectors_of(facts: JobFacts) -> list[Connector]:
    """The connectors as told; else those of the pack's pattern, or one, pin by tap, with the wires by the names that loose leads were joined under."""
    wirings = facts.of_kind(WiringFact)
    if wirings:
        return wirings[-1].connectors
    if not facts.joined and (of_model := connectors_of_model(facts)):
        return of_model
    names = {join.tap: join.lead for join in facts.joined}
    pins = [PinWire(pin=tap, tap=tap, wire=names.get(tap, "")[:30]) for tap in range(facts.intake.pack.series + 1)]
    return [Connector(name=BALANCE, pins=pins)]


def wanted_of(facts: JobFacts, connector: Connector) -> dict[int, int | None]:
    """The tap that each pin should have: as the other board wants it, else its own taps in their order."""
    wirings = facts.of_kind(WiringFact)
    pins = sorted(p.pin for p in connector.pins if p.sensor is None)
    if wirings and wirings[-1].other is not None and connector == wirings[-1].connectors[0]:
        return dict(zip(pins, wanted_taps(wirings[-1].other, len(pins), facts.intake.pack.series), strict=True))
    taps = sorted(p.tap for p in connector.pins if p.tap is not None)
    held = [p.pin for p in sorted(connector.pins, key=lambda p: p.pin) if p.tap is not None]
    return {**dict.fromkeys(pins, None), **dict(zip(held, taps, strict=True))}


def wiring_of(
    facts: JobFacts,
    policy: Policy,
    volts: Sequence[float],
    work: WorkKind,
    lists: Sequence[_Done],
) -> Wiring:
    """The wiring as it stands. Once a list that pins it anew is done, the pins are where it put them."""
    connectors = connectors_of(facts)
    first = connectors[0]
    if work == "repin" and lists and lists[0].next is None:
        connectors = [_pinned(facts, c) for c in connectors]
    entered = facts.of_kind(WiringFact)[-1] if facts.of_kind(WiringFact) else None
    other = entered.other if entered is not None else None
    read = {(fact.connector, fact.pin): fact.volts for fact in facts.of_kind(PinReadFact)}
    pot = [sum(volts[facts.intake.pack.lowest_tap(tap) : tap]) for tap in range(len(volts) + 1)]
    wires = {_wire(p): pot[p.tap] for c in connectors for p in c.pins if p.tap is not None and p.tap < len(pot)}
    found = []
    for k, connector in enumerate(connectors):
        want = wanted_of(facts, first) if other is not None and k == 0 else {}
        rows = [
            _row(
                p,
                connector,
                want.get(p.pin),
                k == 0 and other is not None,
                pot,
                wires,
                read.get((connector.name, p.pin)),
                policy,
            )
            for p in sorted(connector.pins, key=lambda p: p.pin)
        ]
        found.append(WiredConnector(name=connector.name, rows=rows))
    if not balance_wires_of(facts):
        found = []
    stop = next((r.wrong for c in found for r in c.rows if r.wrong), None)
    upcoming = next(
        ((c.name, r.pin) for c in found for r in c.rows if r.expected_v is not None and (r.read_v is None or r.wrong)),
        None,
    )
    return Wiring(
        entered=NewWiring(connectors=connectors, other=other),
        connectors=found,
        next_connector=upcoming[0] if upcoming else None,
        next_pin=upcoming[1] if upcoming else None,
        stop=stop,
        other_says=None if other is None or not found else _other_says(found[0].rows),
    )


def _pinned(facts: JobFacts, connector: Connector) -> Connector:
    """A connector once its wires are moved to where they are wanted."""
    wire = {p.tap: p.wire for p in connector.pins if p.tap is not None}
    want = wanted_of(facts, connector)
    pins = [
        p if p.sensor is not None else PinWire(pin=p.pin, tap=want.get(p.pin), wire=_named(wire, want.get(p.pin)))
        for p in connector.pins
    ]
    return Connector(name=connector.name, pins=pins)


def _named(wires: Mapping[int, str], tap: int | None) -> str:
    return "" if tap is None else wires.get(tap, "")


def _wire(pin: PinWire) -> str:
    return words.tap_so_wire(pin.tap, pin.wire) if pin.wire else words.tap_so_its_wire(pin.tap)


def _row(
    pin: PinWire, connector: Connector, wants: int | None, foreign: bool, pot: Sequence[float], wires: dict[str, float], read: float | None, policy: Policy
) -> WireRow:  # fmt: skip
    last = len(pot) - 1
    reaches = pin.tap is not None and pin.tap <= last
    expected = round(pot[pin.tap], 3) if pin.tap is not None and reaches else None
    within = round(policy.pin_v * max(pin.tap or 0, 1) ** 0.5, 3)
    says = "empty"
    if pin.sensor is not None:
        says = words.read_its_ohms(pin.sensor)
    elif pin.tap is not None:
        says = (
            "pack minus" if pin.tap == 0
            else words.pack_plus_group(last) if pin.tap == last
            else words.plus_of_group(pin.tap) if reaches
            else words.tap_which_this_pack(pin.tap)
        )  # fmt: skip
    others = {name: volts for name, volts in wires.items() if volts != expected}
    return WireRow(
        pin=pin.pin,
        wire=pin.wire,
        tap=pin.tap,
        sensor=pin.sensor,
        says=says,
        expected_v=expected,
        within_v=within,
        read_v=read,
        wrong=None if read is None or expected is None else pin_says(words.pin_of(pin.pin, connector.name), read, expected, others, within),
        other_tap=wants if foreign else None,
        other_wants_v=round(pot[wants], 3) if foreign and wants is not None and wants <= last else None,
    )  # fmt: skip


def _other_says(rows: Sequence[WireRow]) -> str:
    wires = [r for r in rows if r.sensor is None]
    wrong = [r for r in wires if r.tap != r.other_tap]
    if not wrong:
        return words.BOARD_WANTS_EVERY_WIRE
    first = max(wrong, key=lambda r: abs((r.expected_v or 0.0) - (r.other_wants_v or 0.0)))
    sees = "nothing" if first.expected_v is None else f"{first.expected_v:.1f} V"
    wants = "nothing" if first.other_wants_v is None else f"{first.other_wants_v:.1f} V"
    return words.do_not_plug(len(wrong), len(wires), first.pin, sees, wants)

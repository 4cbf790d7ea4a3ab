"""Tell which wire of each connector goes where, and how another board expects them."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import NewWiring, WiringFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def wiring(facts: JobFacts, new: NewWiring) -> None:
    """Wires of a pack that may be worked on."""
    gates.work(facts)
    wiring_there(facts, new)


def wiring_there(facts: JobFacts, new: NewWiring) -> None:
    """Each tap of the pack at one pin at most."""
    series = facts.intake.pack.series
    seen: set[int] = set()
    for connector in new.connectors:
        for pin in connector.pins:
            if pin.tap is None:
                continue
            if pin.tap > series:
                raise Impossible(
                    "connectors",
                    "pin_beyond",
                    f"pin {pin.pin} of {connector.name} goes to tap {pin.tap}; {series} in series have taps 0 to {series}",
                )
            if pin.tap in seen and pin.tap % facts.intake.pack.in_string:
                raise Impossible(
                    "connectors",
                    "tap_at_two_pins",
                    f"tap {pin.tap} is at two pins, the second being pin {pin.pin} of {connector.name}; once each",
                )
            seen.add(pin.tap)


KIND = Kind(
    "wiring",
    WiringFact,
    NewWiring,
    gate=lambda facts, new, _m: wiring(facts, new),
    against=taking_back.nothing,
    fits=lambda facts, fact, _b: wiring_there(facts, fact),
    path="wiring",
    summary="Tell which wire of each connector goes where, and how another board expects them.",
)

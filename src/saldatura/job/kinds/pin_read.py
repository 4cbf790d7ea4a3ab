"""Note what a pin of a connector reads against pack minus."""

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.job import taking_back
from saldatura.job.assessment.block import block_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import NewPinRead, PinReadFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def pin_read(facts: JobFacts, new: NewPinRead, policy: Policy) -> None:
    """A pin that is there, and has a wire to read."""
    gates.work(facts)
    connectors = block_of(facts, policy).wiring.connectors
    connector = next((c for c in connectors if c.name == new.connector), None)
    if connector is None:
        raise Impossible(
            "connector",
            "no_such_connector",
            f"there is no connector {new.connector}; there is {', '.join(c.name for c in connectors)}",
        )
    row = next((r for r in connector.rows if r.pin == new.pin), None)
    if row is None:
        raise Impossible("pin", "no_such_pin", f"{new.connector} has no pin {new.pin}")
    if row.expected_v is None:
        raise Impossible(
            "pin",
            "pin_is_no_tap",
            f"pin {new.pin} of {new.connector} is no tap of this pack ({row.says}); nothing is to be read there in volts",
        )


KIND = Kind(
    "pin_read",
    PinReadFact,
    NewPinRead,
    gate=lambda facts, new, m: pin_read(facts, new, m.policy),
    against=taking_back.nothing,
    path="pin-reads",
    summary="Note what a pin of a connector reads against pack minus.",
)

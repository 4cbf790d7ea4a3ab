"""An output is switched off."""

from saldatura.job.facts import NewStop, StopFact
from saldatura.job.gates import charge as charge_gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "charge_stop",
    StopFact,
    NewStop,
    gate=lambda facts, new, _m: charge_gates.driven(facts, new.charge),
    fits=lambda facts, fact, _b: charge_gates.driven(facts, fact.charge),
    refs=("charge",),
    closed=True,
)

"""Note that a lead was joined to its pin, with what the pin then reads; a wrong value stops the joining."""

from saldatura.job import taking_back
from saldatura.job.facts import JoinFact, NewJoin
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "joined",
    JoinFact,
    NewJoin,
    gate=lambda facts, new, m: gates.join(facts, new, m.policy),
    against=taking_back.last_of_all,
    path="leads/joined",
    summary="Note that a lead was joined to its pin, with what the pin then reads; a wrong value stops the joining.",
)

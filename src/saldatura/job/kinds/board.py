"""Say which board is in the pack now: its own, one of another make with what that lacks, or none."""

from saldatura.job import taking_back
from saldatura.job.facts import BoardFact, NewBoard
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "board",
    BoardFact,
    NewBoard,
    gate=lambda facts, _new, _m: gates.work(facts),
    against=taking_back.nothing,
    path="board",
    summary="Say which board is in the pack now: its own, one of another make with what that lacks, or none.",
)

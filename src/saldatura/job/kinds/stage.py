"""Move the job to a stage."""

from saldatura.job import taking_back
from saldatura.job.facts import NewStage, StageFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "stage",
    StageFact,
    NewStage,
    gate=lambda facts, _new, _m: gates.work(facts),
    against=taking_back.nothing,
    path="stage",
    summary="Move the job to a stage.",
    creates=False,
)

"""Release the pack from quarantine, with name and reason."""

from saldatura.job import taking_back
from saldatura.job.facts import Release, ReleaseFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "release",
    ReleaseFact,
    Release,
    gate=lambda facts, new, _m: gates.release(facts, new),
    closed=True,
    fits=lambda facts, fact, _b: gates.release(facts, fact),
    against=taking_back.last_of_all,
    path="release",
    summary="Release the pack from quarantine, with name and reason.",
    creates=False,
)

"""Who was here before: customers by name, packs by serial."""

from typing import TYPE_CHECKING

from saldatura.job.assessment.handing import Earlier, earlier_of
from saldatura.job.returns import Customer
from saldatura.records import jobs

if TYPE_CHECKING:
    from saldatura.records.answers import Answers

# Nobody reads more of a pack's past at the counter.
MOST_EARLIER = 8
# Names offered as one types.
MOST_CUSTOMERS = 8


def earlier(bench: "Answers", serial: str, before: int = 2**53) -> list[Earlier]:
    """What was done to a pack of that serial on jobs before one, newest first."""
    others = [other for other in jobs.of_serial(bench.db.read(), serial, before) if other < before]
    return [earlier_of(*bench.handed(other), bench.now()) for other in others[:MOST_EARLIER]]


def customers(bench: "Answers", like: str) -> list[Customer]:
    """Customers by a part of their name, with how they were reached last."""
    found = jobs.customers(bench.db.read(), like, MOST_CUSTOMERS)
    return [Customer(name=name, jobs=count, contact=bench.facts(last).intake.contact) for name, count, last in found]

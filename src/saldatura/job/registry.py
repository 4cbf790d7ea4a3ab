"""Every kind of fact of jobs and of the shop, collected: loading, recording, taking back, exporting, importing and the API's routes
go over this list. Whoever reads or writes what is on record asks here, and not the ledger's own registry: that knows a kind only once its
module was loaded.
"""

from saldatura.job.kinds import KINDS as OF_JOB
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Against, Kind
from saldatura.ledger.registry import BASE, BY_FACT, BY_NAME, body_of, kind_of, read, renumbered, written
from saldatura.shop.kinds import KINDS as OF_SHOP

__all__ = [
    "AGAINST",
    "BASE",
    "BY_FACT",
    "BY_NAME",
    "KINDS",
    "Kind",
    "body_of",
    "kind_of",
    "read",
    "renumbered",
    "written",
]

KINDS: tuple[Kind, ...] = (*OF_JOB, *OF_SHOP)
AGAINST: dict[type[Fact], Against] = {kind.fact: kind.against for kind in KINDS if kind.against is not None}

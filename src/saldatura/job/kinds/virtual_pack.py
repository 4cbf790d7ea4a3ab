"""A simulated pack in place of a real one."""

from saldatura.battery.pack.spec import PackSpec
from saldatura.job.facts import VirtualPackFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind(
    "virtual_pack",
    VirtualPackFact,
    PackSpec,
    gate=lambda facts, _new, _m: gates.not_signed(facts),
    make=lambda _facts, new, m: [VirtualPackFact(spec=new, at=m.at)],
    sent_from=lambda fact: fact.spec,
    closed=True,
)

"""Tell how the cells of the block stand, and of what its strips are."""

from saldatura.job import taking_back
from saldatura.job.facts.block import BlockFact
from saldatura.job.gates import block as block_gates
from saldatura.ledger.kind import Kind
from saldatura.shop.block import NewBlock

KIND = Kind(
    "block",
    BlockFact,
    NewBlock,
    gate=lambda facts, new, _m: block_gates.block(facts, new),
    against=taking_back.nothing,
    fits=lambda facts, fact, _b: block_gates.block_there(facts, fact),
    path="block",
    summary="Tell how the cells of the block stand, and of what its strips are.",
)

"""This machine's clock jumped while something was timed."""

from saldatura.job.facts.clock import ClockJumped, ClockJumpedFact
from saldatura.ledger.kind import Kind

KIND = Kind("clock_jumped", ClockJumpedFact, ClockJumped, closed=True)

"""Causes ranked by all evidence, and the next test: the `judge` computation and what it is made of."""

from saldatura.core.judge import tables
from saldatura.core.judge.engine import REPAIRS, judge
from saldatura.core.judge.types import Cause, Evidence, JudgedPack, Judgement, JudgeRequest, NextTest, PackKind

__all__ = [
    "REPAIRS",
    "Cause",
    "Evidence",
    "JudgeRequest",
    "JudgedPack",
    "Judgement",
    "NextTest",
    "PackKind",
    "judge",
    "tables",
]

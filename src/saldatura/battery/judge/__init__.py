"""Causes ranked by all evidence, and the next test: the `judge` computation and what it is made of."""

from saldatura.battery.judge import tables
from saldatura.battery.judge.engine import judge
from saldatura.battery.judge.types import Cause, Evidence, JudgedPack, Judgement, JudgeRequest, NextTest, PackKind
from saldatura.battery.judge.words.why import REPAIRS

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

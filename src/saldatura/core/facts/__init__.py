"""The facts of a job and of the shop: what was said, answered, read, started, finished and signed. Only ever added."""

from saldatura.core.fact import Fact, TakenBack, TakenBackFact
from saldatura.core.facts.charge import ChargeBegun, ChargeEnd, ChargeOutcome, ChargeRun, EndOfCharge, NewCharge
from saldatura.core.facts.intake import (
    DAMAGING,
    DANGERS,
    Danger,
    Intake,
    IntakeFact,
    NewStage,
    Release,
    ReleaseFact,
    Safety,
    SafetyFact,
    StageFact,
)
from saldatura.core.facts.job import JobFacts, Log, UnreadFact
from saldatura.core.facts.leads import JoinFact, LeadFact, NewJoin, NewLead
from saldatura.core.facts.reading import NewReading, NewSet, Purpose, ReadingFact, SetFact
from saldatura.core.facts.sign_off import (
    NewSignOff,
    ReplacedFact,
    ReplacedGroup,
    SignOffFact,
    VirtualPackFact,
)

__all__ = [
    "DAMAGING",
    "DANGERS",
    "ChargeBegun",
    "ChargeEnd",
    "ChargeOutcome",
    "ChargeRun",
    "Danger",
    "EndOfCharge",
    "Fact",
    "Intake",
    "IntakeFact",
    "JobFacts",
    "JoinFact",
    "LeadFact",
    "Log",
    "NewCharge",
    "NewJoin",
    "NewLead",
    "NewReading",
    "NewSet",
    "NewSignOff",
    "NewStage",
    "Purpose",
    "ReadingFact",
    "Release",
    "ReleaseFact",
    "ReplacedFact",
    "ReplacedGroup",
    "Safety",
    "SafetyFact",
    "SetFact",
    "SignOffFact",
    "StageFact",
    "TakenBack",
    "TakenBackFact",
    "UnreadFact",
    "VirtualPackFact",
]

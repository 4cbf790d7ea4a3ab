"""The `verdict` computation: what is wrong with a string, in sentences, and the reading that would settle it."""

from saldatura.battery.verdict.judge import verdict, verdict_on
from saldatura.battery.verdict.types import HangingGroup, Symptom, Verdict, VerdictRequest

__all__ = ["HangingGroup", "Symptom", "Verdict", "VerdictRequest", "verdict", "verdict_on"]

"""The repairs that apply, side by side: what each takes, brings and costs, by the bench model."""

from saldatura.core.plan.engine import repairs
from saldatura.core.plan.types import Plan, PlanRequest, Repair, RepairName

__all__ = ["Plan", "PlanRequest", "Repair", "RepairName", "repairs"]

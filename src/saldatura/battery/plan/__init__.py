"""The repairs that apply, side by side: what each takes, brings and costs, by the bench model."""

from saldatura.battery.plan.engine import repairs
from saldatura.battery.plan.types import Plan, PlanRequest, Repair, RepairName

__all__ = ["Plan", "PlanRequest", "Repair", "RepairName", "repairs"]

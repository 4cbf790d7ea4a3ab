"""Levelling planned over the channels at hand: which group on which channel, in which order, to which end."""

from saldatura.core.level_plan.engine import level_plan
from saldatura.core.level_plan.types import Channel, LevelPlan, LevelPlanRequest, PlanStep

__all__ = ["Channel", "LevelPlan", "LevelPlanRequest", "PlanStep", "level_plan"]

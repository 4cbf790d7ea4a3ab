"""Levelling planned over the channels at hand: which group on which channel, in which order, to which end."""

from saldatura.battery.level.engine import level_plan
from saldatura.battery.level.types import Channel, LevelPlan, LevelPlanRequest, PlanStep

__all__ = ["Channel", "LevelPlan", "LevelPlanRequest", "PlanStep", "level_plan"]

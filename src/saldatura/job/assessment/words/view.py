"""What `view` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.job.assessment.groups import GroupNow

WHAT_WAS_FROZEN = (
    "What was frozen at the sign-off cannot be read by this program; this is computed anew from the facts."
)
WHAT_EACH_GROUP_HOLDS = "What each group holds"
SET_UNDER_LOAD = "The set under load"
WHAT_IS_WAITED = "What is waited for"
CONDEMNED_GROUP_NEVER_GOES = "A condemned group never goes on a charger, whatever it reads later."
SIGNED_OFF_AND_CLOSED = "It is signed off and closed; Hand over opens it again, with a reason."
SAFETY_SCREEN_IS_NOT = "The safety screen is not answered yet."


def facts_cannot_be_read(unread_count: int) -> str:
    return f"{unread_count} of its facts cannot be read by this program and count for nothing; they are in the export."


def may_not_be_used(lost: str, lost_2: list[GroupNow]) -> str:
    return f"{lost} may not be used again, whatever {'it reads' if len(lost_2) == 1 else 'they read'} now"


def quarantine_quarantine(quarantine: Sequence[str]) -> str:
    return f"It is in quarantine ({', '.join(quarantine)})."


def cannot_be_computed(what: str, error: str) -> str:
    return f"{what} cannot be computed ({error}); the facts are in the export."

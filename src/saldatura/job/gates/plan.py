"""Gates of the plan: what is told, what is taken, which groups may be cut out as donors."""

from collections.abc import Mapping

from saldatura.battery import errors
from saldatura.battery.plan.types import Repair, RepairName
from saldatura.job.facts import NewAccepted
from saldatura.job.gates import words

# Repairs that keep every cell, and those that change the cells of the groups they name.
KEEP_ALL: frozenset[RepairName] = frozenset(
    ("clean_connector", "mend_wire", "mend_joint", "level", "replace_board", "repair_board")
)
OF_GROUPS: frozenset[RepairName] = frozenset(("replace_groups", "donor_cells", "drop_group"))


def keeps_none_lost(lost: Mapping[int, str], offered: Repair | None, new: NewAccepted) -> None:
    """What would keep lost cells is never taken, whatever the note. `lost`: groups whose cells are, and why."""
    named = set(new.groups or (offered.at.groups if offered is not None else []))
    left = set(lost) - (named if new.does & OF_GROUPS else set())
    keeps = bool(left) and new.repair in KEEP_ALL | OF_GROUPS
    if keeps or (offered is not None and offered.keeps_lost):
        why = lost[min(left)] if left else offered.ruled_out if offered is not None else ""
        raise errors.Refused("ruled_out", "cells_lost", words.not_done_lost_cells(why))


def not_ruled_out(offered: Repair | None, new: NewAccepted) -> None:
    """What the plan rules out is taken only with a word why."""
    if offered is None or offered.ruled_out is None:
        return
    if len(new.note.strip()) < 3:
        raise errors.Refused("ruled_out", "ruled_out", words.plan_rules_it_out(offered.ruled_out))

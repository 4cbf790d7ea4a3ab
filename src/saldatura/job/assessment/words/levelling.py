"""What `levelling` says."""

from saldatura.battery.wording import figure, typed

CELLS_ARE_CUT_OUT = "Its cells are cut out."
CELLS_ARE_NEW = "Its cells are new in it and not read in their place yet; read it in Probe first."
NOT_SETTLED_BY_READINGS = "It is not settled by the readings; read it in Probe first."
NO_GROUP_IS_SETTLED = "no group is settled yet; read every group in Probe first"


def would_take_days(current_a: float, days: float, group: int) -> str:
    return f"{typed(current_a)} A would take {figure(days, 0)} days for group {group}; give more"

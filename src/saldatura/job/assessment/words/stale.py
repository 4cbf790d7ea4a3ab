"""What `stale` says."""

from saldatura.battery.quantities import volts_words

STEP_OF_WORK_LIST = "a step of the work list"
CELLS_THAT_WERE_CUT = "cells that were cut out"


def charge_of_group(group: int) -> str:
    return f"the charge of group {group}"


def lead_joined_to_pin(tap: int) -> str:
    return f"the lead joined to pin {tap}"


def group_read(group: int, volts: float) -> str:
    return f"group {group} read {volts_words(volts)}"

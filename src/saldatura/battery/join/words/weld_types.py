"""What `weld_types` says."""

from saldatura.battery.wording import typed


def highest_setting_is_not(highest: float, lowest: float) -> str:
    return f"the highest setting, {typed(highest)}, is not above the lowest, {typed(lowest)}"


def leaves_no_room(lowest: float, highest: float, least_range: float) -> str:
    return f"{typed(lowest)} to {typed(highest)} leaves no room for a window; give the whole range of the welder, at least {typed(least_range)} to 1"


def coupon_at_lies_outside(setting: float, lowest: float, highest: float) -> str:
    return f"a coupon at {typed(setting)} lies outside {typed(lowest)} to {typed(highest)}"

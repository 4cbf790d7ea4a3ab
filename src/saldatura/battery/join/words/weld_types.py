"""What `weld_types` says."""


def highest_setting_is_not(highest: float, lowest: float) -> str:
    return f"the highest setting, {highest:g}, is not above the lowest, {lowest:g}"


def leaves_no_room(lowest: float, highest: float, least_range: float) -> str:
    return f"{lowest:g} to {highest:g} leaves no room for a window; give the whole range of the welder, at least {least_range:g} to 1"


def coupon_at_lies_outside(setting: float, lowest: float, highest: float) -> str:
    return f"a coupon at {setting:g} lies outside {lowest:g} to {highest:g}"

"""What `weld` says."""

from saldatura.battery.wording import percent

TEN_COUPONS_AND_NONE = " Ten coupons and none is sure: the window is narrow for this strip. A thinner strip, slots, clean tips and more force widen it."
TEAR_THEM_BY_EYE = " Tear them: by the eye alone a weak weld passes for a good one."
TEN_COUPONS_AND_NO = "Ten coupons and no setting is sure to hold: the window is too narrow for this strip. A thinner strip, slots, clean tips and more force widen it."
NO_COUPON_YET_FIRST = "No coupon yet: the first one halves the range."


def far_weld(count: str, chance: float) -> str:
    return f"{count} so far: a weld at this setting is good with {percent(chance)}, and those beside it were. One coupon at the start of a day checks it."


def far_setting_is_used(count: str, by_eye: str, more: str) -> str:
    return f"{count} so far. A setting is used once it was good itself and good on both sides of it.{by_eye}{more}"


def far_no_setting(count: str) -> str:
    return f"{count} so far; no setting is yet sure to hold."

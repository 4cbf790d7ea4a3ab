"""What `proof` says."""

from saldatura.battery.quantities import time_words
from saldatura.battery.wording import figure, volts_small

PACK_AS = "Of the pack as it is now"
STOPPED_BY_HAND = "; stopped by hand"
SOONER_SO_IT_HELD = ": sooner, so it held more charge than thought or has less capacity than rated"
LATER_SO_ITS_RESISTANCE = ": later, so its resistance is higher than usual or it leaks"


def read_before_let(said: str) -> str:
    return f"It was read before {said}. Let it rest, begin again, and read every group."


def read_it_again(said: str) -> str:
    return f"Read it again at rest, after {said}"


def group_is_never_used(group: int, barred: str | None) -> str:
    return f"Group {group} is never used again. {barred}"


def does_not_pass_may(lost: str) -> str:
    return f"It does not pass: {lost} may not stay in it"


def took_forecast(took_s: float, forecast_low_s: float, forecast_high_s: float) -> str:
    return f"Took {time_words(took_s)}, forecast {time_words(forecast_low_s)} to {time_words(forecast_high_s)}"


def went_in_forecast(counted: float, forecast_ah: float) -> str:
    return f". Went in {figure(counted, 2)} Ah, forecast {figure(forecast_ah, 2)} Ah"


def rests_at_chargers_setting(volts: float, off_v: float) -> str:
    return f". It rests at {figure(volts, 2)} V, {volts_small(abs(off_v))} {'under' if off_v < 0 else 'over'} the charger's setting."


def charge_cannot(why_odd: str) -> str:
    return f"This charge record cannot be right: {why_odd}"

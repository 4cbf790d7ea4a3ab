"""What `figures` says."""

from saldatura.battery.wording import figure, significant


def discharge_of(ah: float, source: str) -> str:
    return f"a discharge of {figure(ah, 2)} Ah ({source})"


def step_of(step_a: float) -> str:
    return f"a step of {significant(abs(step_a), 2)} A"


def charge_m(ohm: float, ohm_doubt: float) -> str:
    return f"its charge, {figure(1000 * ohm, 0)} ± {figure(1000 * ohm_doubt, 0)} mΩ"


def charge_ah_ah_doubt(ah: float, ah_doubt: float) -> str:
    return f"its charge, {figure(ah, 2)} ± {figure(ah_doubt, 2)} Ah"


def charge_by_what_charger(ah: float, doubt: float) -> str:
    return f"its charge, {figure(ah, 2)} ± {figure(doubt, 2)} Ah by what the charger counted"

"""What `figures` says."""


def discharge_of(ah: float, source: str) -> str:
    return f"a discharge of {ah:.2f} Ah ({source})"


def step_of(step_a: float) -> str:
    return f"a step of {abs(step_a):.2g} A"


def charge_m(ohm: float, ohm_doubt: float) -> str:
    return f"its charge, {1000 * ohm:.0f} ± {1000 * ohm_doubt:.0f} mΩ"


def charge_ah_ah_doubt(ah: float, ah_doubt: float) -> str:
    return f"its charge, {ah:.2f} ± {ah_doubt:.2f} Ah"


def charge_by_what_charger(ah: float, doubt: float) -> str:
    return f"its charge, {ah:.2f} ± {doubt:.2f} Ah by what the charger counted"

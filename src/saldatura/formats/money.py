"""Prices on paper: with the currency that the shop reckons in."""

SIGNS = {"EUR": "€", "USD": "$", "GBP": "£", "JPY": "¥"}
# Without smaller coins.
WHOLE = ("JPY", "KRW", "HUF", "ISK", "CLP")


def priced(amount: float, currency: str) -> str:
    """A price as it is printed: “45.00 €”, “45.00 CHF”."""
    return f"{amount:.{0 if currency in WHOLE else 2}f} {SIGNS.get(currency, currency)}"

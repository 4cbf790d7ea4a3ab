"""What `engine` says."""

from saldatura.battery.wording import counted, figure

EACH_GROUP_BY_ITSELF = ", each group by itself with the lost ones left out"
PRICE_OF_HOURS_LABOUR = "the price of an hour's labour"
NOTHING_IS_PROMISED = "nothing is promised, and nothing comes back"


def charger_goes(end: float, each: float, groups_count: int, most: float) -> str:
    return f"The charger goes to {figure(end, 1)} V: {figure(each, 2)} V for each of {counted(groups_count, 'group')}, where {figure(most, 2)} V is full. They would be overcharged: another charger first."


def nobody_measured_what_old(says: str, which: str) -> str:
    return f"{says}{which}: nobody measured what the old groups hold, and its years depend on that."


def shop_did_so_came(tried: int, back: int, short: float) -> str:
    return f"Of {tried} that this shop did so, {back or 'none'} came back; it counts in the chance{' and the years' if short < 1 else ''}."


def price_of(what: str) -> str:
    return f"the price of the {what}"

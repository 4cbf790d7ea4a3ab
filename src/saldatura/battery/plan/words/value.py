"""What `value` says."""

from saldatura.battery.wording import significant


def saves_on_average(says: str, saves: float, price: float, because: str) -> str:
    return f"{says}: it saves {significant(saves)} on average, for {significant(price)} of labour; {because}."

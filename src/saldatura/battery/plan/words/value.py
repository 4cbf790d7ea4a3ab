"""What `value` says."""


def saves_on_average(says: str, saves: float, price: float, because: str) -> str:
    return f"{says}: it saves {saves:.3g} on average, for {price:.3g} of labour; {because}."

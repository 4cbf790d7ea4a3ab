"""What `mend` says."""

from saldatura.battery.wording import figure


def layers_instead(layers: int, least: int, where: str) -> str:
    return f"{layers} layers instead of {least} at {where}, joined to each other along their length."


def copper_of_same_size(where: str, gain: float) -> str:
    return f"Copper of the same size at {where}: it carries {figure(gain, 1)} times as well."


def copper_in_layers_instead(layers: int, least: int, where: str) -> str:
    return f"Copper in {layers} layers instead of {least} at {where}, joined to each other along their length."


def lead_at_instead(end: str, node: str, now: float) -> str:
    return f"The {end} lead at {node} instead of {now}."


def leads_at_and_instead(positive: str, negative: str, off_positive: str, off_negative: str) -> str:
    return f"The leads at {positive} and {negative} instead of {off_positive} and {off_negative}."


def times_cross_section(times: float, where: str) -> str:
    return f"{figure(times, 1)} times the cross-section at {where}."

"""What `witness` says."""

from saldatura.battery.wording import degrees, figure, percent

PERMANENT_FAILURE_IS_FLAGGED = "a permanent failure is flagged"
NO_PERMANENT_FAILURE = "no permanent failure is flagged"
CHIP_HOLDS_ITS_CHARGE = "the chip holds its charge switch off"
CHIP_SAYS_ITS_CHARGE = "the chip says its charge switch is on"
CHIP_HOLDS_ITS_DISCHARGE = "the chip holds its discharge switch off"
CHIP_SAYS_ITS_DISCHARGE = "the chip says its discharge switch is on"
CHIP_ANSWERS_ONLY_WHEN = "the chip answers only when fed from outside"
CHIP_ANSWERS_BY_ITSELF = "the chip answers by itself"
CHIP_SAYS_LITTLE_HEALTH = "the chip says little health is left"
CHIP_SAYS = "the chip says it is healthy"
COUNTS_MANY_CYCLES = "it counts many cycles"
COUNTS_FEW_CYCLES = "it counts few cycles"
DRIVEN_AND_DOES_NOT = "it is driven, and does not pass"
NOTHING_TELLS = "nothing tells it to close"


def reads_rail_volts(rail: str, volts: float) -> str:
    return f"{rail.replace('_', ' ')} reads {figure(volts, 2)} V"


def gauge_shows_where_groups(fraction: float, soc: float) -> str:
    return f"the gauge shows {percent(fraction)} where the groups hold about {percent(soc)}"


def group_is_warmer_than(group: int, c: float, ambient_c: float) -> str:
    return f"group {group} is {figure(c - ambient_c, 0)} K warmer than the air"


def cannot_be_normal(what: str, other: float) -> str:
    return f"the {what} cannot be normal and {other} at once; keep the one that holds"


def sensor_reads_open(sensor: int) -> str:
    return f"sensor {sensor} reads open"


def sensor_reads_short(sensor: int, ohm: str) -> str:
    return f"sensor {sensor} reads {ohm}, a short"


def sensor_reads_right(sensor: int, ohm: str, ambient_c: float) -> str:
    return f"sensor {sensor} reads {ohm}, right for {degrees(ambient_c)}"


def sensor_reads_not_what(sensor: int, ohm: str, ambient_c: float) -> str:
    return f"sensor {sensor} reads {ohm}, not what it should at {degrees(ambient_c)}"


def string_whole(whole: float) -> str:
    return f", the string {figure(whole, 2)} V"


def behind_name_volts_beside(name: str, volts: float, beside: str) -> str:
    return f"behind the {name}: {figure(volts, 2)} V{beside}"


def terminals_read(volts: float, beside: str) -> str:
    return f"terminals read {figure(volts, 2)} V{beside}"


def switchs_gate_stands(volts: float, does: str) -> str:
    return f"the switch's gate stands {figure(abs(volts), 1)} V from its source: {does}"

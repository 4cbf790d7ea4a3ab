"""What `order` says."""

from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.wording import figure, typed

OFF_FIRST_THROUGH_BOARD = "Off first: through the board it ties together what is cut apart."
LAST_OF_ALL = "Last of all, and only after every pin is read."
ONE_WIRE_AT_TIME = "One wire at a time: two bare ends that touch burn."
READ_ITS_PIN_BEFORE = "Read its pin before the next; the balance connector comes last of all."
LEAD_OF_PACKS_OWN = "The lead of the pack's own end, with its end covered at once."
PACKS_OWN_LEAD_AFTER = "The pack's own lead after its string is whole and read."


def joint_is_at_tap(joint: str, tap: int, series: int) -> str:
    return f"joint {joint} is at tap {tap}; {series} in series have taps 0 to {series}"


def joint_is_listed_twice(twice: str) -> str:
    return f"joint {twice} is listed twice; a name for each"


def series_at_are_above(series: int, group_v: float, whole_v: float) -> str:
    return f"{series} in series at {typed(group_v)} V are {figure(whole_v, 1)} V, above the {figure(DEFAULT_POLICY.pack_limit_v, 0)} V DC extra-low-voltage limit for dry conditions (IEC 61140). Refer it to someone licensed for that voltage."


def link_at_tap_link(joint: str, tap: int) -> str:
    return f"{joint} is a link at tap {tap}; a link lies between two groups, and an end carries a main lead"


def two_links_are_listed(twice: int) -> str:
    return f"two links are listed at tap {twice}; a string has one there"


def end_of_before_next(joint: str) -> str:
    return f"the end of {joint}, before the next wire"


def pins_of(joint: str) -> str:
    return f"the pins of {joint}"


def both_ends(joint: str) -> str:
    return f"both ends of {joint}"


def cut_at_tap_no(tap: int, exposed: float) -> str:
    return f"Cut at tap {tap}, no part of the string carries more than {figure(exposed, 1)} V."


def joined_at_tap_longest(tap: int, exposed: float) -> str:
    return f"Joined at tap {tap}, the longest part carries {figure(exposed, 1)} V; the largest are joined last."

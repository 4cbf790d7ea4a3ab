"""What is said of strings side by side while a block is taken down or built up."""

from saldatura.battery.words import string_name

TIE_OF_PLUS_ENDS = "the tie of the plus ends"
PLUS_ENDS = "the plus ends of the strings"
EACH_PLUS_END = "each plus end by itself"
PARTED_FIRST = "Parted there, each string is by itself: what is cut in one is not fed by the others."
JOINED_LAST = "Minus ends first, then one reading, then the plus ends: from further apart the higher string pours into the other, and the joint arcs as it closes."
BETWEEN_PLUS_ENDS = "black on the plus of string A, red on the plus of each other string, the minus ends touching"


CROSSED_FEEDS = "A cross link feeds what is cut in one string from the other: it goes first."
CROSSED_LAST = "Read it before it is joined: it shorts groups where a tap is mistaken for another."


def cross_link(tap: int) -> str:
    return f"the cross link at tap {tap}"


def cross_link_again(tap: int) -> str:
    return f"the cross link at tap {tap} again"


def between_cross(tap: int) -> str:
    return f"black on tap {tap} of string A, red on the same tap of each other string"


def end_of_string(string: int, minus: bool) -> str:
    return f"the strip at the {'minus' if minus else 'plus'} end of {string_name(string)}"

"""What `rehousing` says."""

from saldatura.battery.wording import figure

ONLY_WIRE_IN_HAND = "Only the wire in hand is bare while the board changes."
ALL_STRIPS = "all strips"
OTHER_BOARD = "the other board"
EVERY_PIN = "every pin"
BOTH_SIDES_OF_BLOCK = "both sides of the block"
FROM_WHICH_GROUPS = "from which groups the old board feeds itself"
ITS_DRAW_BEFORE_CELLS = "Milliamperes from each tap, its plug out and its feed from a test supply; note it. Two low groups side by side at the lower end are its draw before they are bad cells."
END_BEFORE_NEXT_WIRE = "its end, before the next wire"
OTHER_BLOCK_UNDER_BOARD = "the other block under the board"
OWN_CELLS_ARE_READ = "Its own cells are read at the pins from here on, not those that came out."
BETWEEN_BOARD_AND_CELLS = "between board and cells"
NOTHING_OF_IT_TOUCHES = "Nothing of it touches a strip or a can: paper beneath it."
MINUS_FIRST_THEN_UPWARD = "Minus first, then upward: a board fed from the middle can be lost."
PAD_IS_READ_BEFORE = "Its pad is read before the next wire is bared."
MAIN_LEADS_TO_OTHER = "main leads to the other board"
LAST_NOW_BOARD = "Last: now the board is awake. Some wake only on a charger."
BLACK_ON_MINUS_LEAD = "black on the minus lead, red on the plus lead"
EACH_WIRE_SITS_WHERE = "Each wire sits where it belongs already."
WAITS_FOR_ITS_PIN = "It waits for its pin, covered."
NO_PIN_WANTS = "No pin wants it: cover its end and tie it back."
END_AT_ONCE = "its end at once"
ONE_CONTACT_OUT = "One contact out of the housing at a time."
ONE_WIRE_AT_TIME = "One wire at a time: while one is out, nothing else is bare."


def balance_wire_of_old(tap: int) -> str:
    return f"balance wire {tap} of the old board"


def end_carries_against_pack(at: float) -> str:
    return f"Its end carries {figure(at, 1)} V against pack minus; covered, it meets nothing."


def sits_against_and_goes(named: str) -> str:
    return f"It sits against {named} and goes back there; a copy without it has no temperature cut-off."


def other_board(sensor: str) -> str:
    return f"{sensor} of the other board"


def balance_wire_to_other(tap: int) -> str:
    return f"balance wire {tap} to the other board"


def wire_of_colour(wire: str) -> str:
    return f"the {wire} wire"


def wire_of_tap(tap: int) -> str:
    return f"the wire of tap {tap}"


def out_of_pin(wire: str, pin: int) -> str:
    return f"{wire} out of pin {pin}"


def pin_to_pin(wire: str, pin: int, to: int) -> str:
    return f"{wire} from pin {pin} to pin {to}"


def into_new_housing(wire: str, pin: int) -> str:
    return f"{wire} into pin {pin} of the new housing"


def black_on_pack_minus(to: int) -> str:
    return f"black on pack minus, red on pin {to}"

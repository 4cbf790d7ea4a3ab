"""What `mounted` says."""

from saldatura.battery.wording import figure

SIDES = {"top": "upper side", "bottom": "lower side"}
SHEET_UNDER_BOARD = "an insulating sheet between board and cells"
LEGS_END_OVER_CANS = "Joints on the underside lie over cans: without a sheet they rub through to one."
LEGS_THROUGH_HOLES = "Its legs through both plates of the board, bent away from the cell's seal; nothing soldered yet."
HEIGHT_OF_JOINTS = "at the height of the new joints"
NO_JOINT_HIGHER = "No joint stands higher than the old ones did: what stands higher presses on the case."
MAIN_LEAD_BACK = "main lead − back on"
AFTER_STRING_IS_READ = "The pack's own lead after its string is whole and read."
BALANCE_PLUG_BACK = "the balance plug back in"
LAST_OF_ALL = "Last of all, every joint read by now."
TRACKS_BESIDE = "The tracks beside it are at other taps; solder that runs bridges them."
END_OF_LEG = "the end of the leg"
EACH_LEG_IS_LIVE = "Legs are trimmed before anything is heated: a short leg lets go at once. Each is live."
FIRST_IS_COVERED = "The other leg is covered before this one is cut: cutters across both close the cell."
ONE_LEG_IN_CUTTERS = "One leg in the cutters at a time; glasses on."
FROM_BOTH_SIDES = "Holes through two plates are cleared from both sides with braid. What does not come in two seconds comes after a pause."
TWO_IRONS = "Two irons, one on each plate, two seconds; then a pause."
OTHER_LEG_STAYS_COVERED = "Its plus leg stays covered meanwhile."
BOTH_SIDES_CARRY = "Soldered on both sides: one plate alone carries half."
THEN_READ = "Then read it at its pads."


def sits_against(named: str) -> str:
    return f"It sits against {named} and is bedded there again when the new ones are in."


def every_pad_but_those(cell: str) -> str:
    return f"every pad but those of {cell}"


def leg_of(pole: str, cell: str) -> str:
    return f"the {pole} leg of {cell}"


def off_board(cell: str) -> str:
    return f"{cell} off the board"


def both_legs_of_one(cell: str) -> str:
    return f"both stumps of {cell}, one after the other"


def stays_live(volts: float) -> str:
    return f"It stays live, {figure(volts, 1)} V: no stump meets the other, nor rests on the board."


def holes_of(cell: str) -> str:
    return f"the holes of {cell}"


def new_cell(cell: str) -> str:
    return f"the new {cell}"


def leg_on_side(pole: str, cell: str, side: str) -> str:
    return f"the {pole} leg of the new {cell}, {side}"


def black_on_minus_pad(cell: str) -> str:
    return f"black on the minus pad of {cell}, red on its plus pad"

"""What `options` says."""

from saldatura.battery.wording import counted, figure, percent, significant

CLEAN_SENSOR_PLUG = "Clean the sensor plug and its socket"
TEMPERATURE_SENSORS_CIRCUIT = "the temperature sensor's circuit"
CHEAPEST_TO_TRY = "The cheapest to try. It comes back where the plug is worn."
ONE_WIRE_AT_TIME = "One wire at a time: two bare ends that touch burn."
JOINT_OR_LEAD = "a joint or lead"
HEAT_NEAR_CELL_WELD = "Heat near a cell: weld, or solder within two seconds."
CHARGING_SINGLE_GROUPS = "Charging single groups is watched: what it takes, how warm it grows, and that it ends."
GROUPS_HANG_TOGETHER_THERE = "The groups are level: there is nothing to do here."
ANOTHER_BOARD_OF_SAME = "Another board of the same revision"
SENSE_WIRES_GO = "The sense wires go on one at a time and last of all. A board of another revision may watch less."
BOARD_OF_SAME_REVISION = "a board of the same revision"
PART_OF_BOARD = "a part of the board that can be changed"
BOARD_MENDED_BY_HAND = "A board mended by hand is proved with its cut-offs on a supply, not on the pack."
PART_OF_SAME_RATING = "a part of the same rating"
STOCK_THAT_STOOD_LONG = "Old stock has aged on the shelf: ask for its date."
NO_PRICE_OF_NEW = "No price of a new original is known; enter one, or there is none to be had."
COPY_OF_ANOTHER_MAKE = "A copy of another make"
WHAT_IT_HOLDS = "What it holds and how long it lasts is a guess: a warranty term is a floor, not a forecast."
CELLS_OF_UNKNOWN_MAKE = "Cells of unknown make."
LOOK_WHETHER_IT_HAS = " Look whether it has sensor and fuse."
NO_PRICE_OF_COPY = "No price of a copy is known; enter one, or there is none to be had."
NO_CELL = "no cell of it is kept"
EVERY_BARE_POINT_CARRIES = "Every bare point carries the voltage of its tap until the string is cut."


def next_to_nothing_speaks(what: str, belief: float) -> str:
    return f"Only {percent(belief)} chance that {what} is at fault."


def belief_is(belief: float, what: str) -> str:
    return f"{percent(belief)} chance that {what} is at fault."


def brings_charge_of_run(now: float, levelled: float, load_a: float) -> str:
    return f"It brings the charge of a run from {significant(now, 2)} Ah to {significant(levelled, 2)} Ah at {significant(load_a)} A."


def leak_measured_it_wants(span: str) -> str:
    return f"By the leak measured it needs levelling again in about {span}."


def took_to_drift(age: float, span: str) -> str:
    return f"It took {counted(age, 'year')} to drift so far; at that pace it needs levelling again in {span}."


def copied_board_loses_protection(lacking: str) -> str:
    return f"A copied board loses protection: {lacking}."


def one_lacks_protection(lacking: str) -> str:
    return f" This one lacks protection: {lacking}."


def may_go_to_drawer(sound: str) -> str:
    return f"{sound} may go to the drawer once tested"


def taken_down_from_middle(keeps: str) -> str:
    return f"Taken down from the middle of the string; {keeps}, the rest is cell waste with its ends taped."


LACKS_WORDS = {
    "temperature_sensor": "no cut-off when the cells grow hot or are charged frozen",
    "fuse": "nothing stops a short circuit once a switch has failed closed",
    "group_limits": "no group is watched by itself, so one may be over- or undercharged unseen",
    "balancing": "nothing levels the groups",
}


def warranty_of(months: float) -> str:
    return (
        f"It is usually sold with {figure(months, 0)} months: what fails by then costs the way there and not the price."
    )

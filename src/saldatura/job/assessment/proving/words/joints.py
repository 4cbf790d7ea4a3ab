"""What `joints` says."""

from saldatura.battery.limits.acceptance import APART_K, BOARD_WITHIN_V, JOINT_WARMS_W
from saldatura.battery.wording import degrees, figure, significant, typed

READ_IT = "Read it at its plug at the room's warmth, and again held warm in the hand or against something cold, each time with the warmth beside it."
READS_WARM_AND_COLD = "It reads warm and cold as they are."
PACK_WAS_OPEN_WHERE = "The pack was open where its sensors are."
NOTHING_NEAR_THEM = "Nothing near them was touched."
WITHIN_OF_WHAT = "within 8 K of what is beside it, warm and cold"
MOVE_WHAT_WAS_MENDED = "Move what was mended while a meter watches, ten seconds; then drop the closed pack twice from a hand's breadth onto wood."
NOTHING_DROPPED_OUT = "Nothing dropped out as it was moved; it was not dropped."
DROPS_OUT_WHEN_MOVED = "It drops out when moved: the joint or its neighbour is not sound."
WHAT_WAS_MENDED_MUST = "A mended part must survive being moved."
NO_WIRE_AND_NO = "No wire and no joint was touched."
MOVED_AND_DROPPED_NOTHING = "moved and dropped, nothing dropped out"
MOVED_WHILE_METER_WATCHED = "moved while a meter watched, nothing dropped out"
READ_IT_FOUR_WIRE = "Read it four-wire across the mended joint; the load step tells it too."
MENDED_JOINTS_BY_WHAT = "Mended joints by what they add"
JOINT_OF_ONES_OWN = "A joint of one's own is proved by its resistance."
NO_SINGLE_JOINT = "No single joint was mended."
STAND_IN = "On the stand-in, or with a supply on one sense point and the cells off: never by over-charging or emptying the cells."
LETS_GROUP_TOO_FAR = "It opens too late: the cells are not protected."
ONLY_ONE_OF_TWO = "Only one of the two limits was tried."
OPENS_WHERE_IT_SHOULD = "It opens where it should."
BOARD_WAS_PUT = "A board was put in or mended: its limits must be tested."
BOARD_IS_ONE = "The board is the one that was in."
SUPPLY_AT_SENSE_POINT = "A supply at a sense point: the plug off the cells first, its current held to some milliamps."
SWAP_WITH_SOUND_PART = "Swap with a sound part"
WHAT_WAS_CONCLUDED = "What was concluded from a swap rests on the part that was put."
REFERENCE_PART = "a reference part that was proved since"


def reads_and_other_end(part: float) -> str:
    return f"It reads {degrees(part)}, and the other end is not read: once more held warm or cold, by {figure(APART_K, 0)} K at least."


def at_celsius_room(celsius: float, room: float) -> str:
    return f"{degrees(celsius)} at {degrees(room)}"


def drop_outs(dropouts_s_count: int, seconds: float, dropped: bool) -> str:
    return f"{dropouts_s_count} drop-outs in {figure(seconds, 0)} s of moving{', and dropped' if dropped else ''}"


def adds_at(amps: float, ohm: float) -> str:
    return f"It adds {figure(amps**2 * ohm, 2)} W at {significant(amps)} A."


def would_burn_at_make(amps: float, ohm: float) -> str:
    return f"It would burn {figure(amps**2 * ohm, 1)} W at {significant(amps)} A: make it anew."


def m_at_at_most(most: float, amps: float) -> str:
    return f"{figure(1000 * most, 2)} mΩ: {typed(JOINT_WARMS_W)} W at {significant(amps)} A at the most"


def open_by(full_v: float, hard_end_v: float) -> str:
    return f"open by {figure(full_v + BOARD_WITHIN_V, 2)} V and by {figure(hard_end_v - BOARD_WITHIN_V, 2)} V a group"


def found_at_fault(names: str) -> str:
    return f"{names} was found at fault"


def found_at_fault_since(names: str) -> str:
    return f"{names} was found at fault since: the swap told nothing. Swap again with a part that is proved."

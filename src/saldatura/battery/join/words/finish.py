"""What `finish` says."""

MINUS_FIRST = "Pack minus first: every other wire is read against it."
READ_BEFORE_NEXT = "Read it before the next is soldered. It serves for one levelling charge."
LEVELLED_THROUGH_IT = (
    "The groups are level: it comes off again, the highest tap first, each joint covered before the next."
)
TRIAL_CHARGE = "once on its own charger, the case still open"
AT_REST_AFTER = "an hour after the charger has ended, black on the minus lead, red on the plus lead"
OVERNIGHT = "the pack overnight"
LEAK_SHOWS = "What leaks or was joined badly shows in the morning, and not at the customer's."
IN_THE_MORNING = "at it once more in the morning"
SAME_PLACES = "black on the minus lead, red on the plus lead"
CASE_CLOSED = "the case, with its seal and screws as they were"
AS_IT_WAS = "Wires lie where they lay; none is pinched, and nothing rattles."
IN_DEVICE = "it in the real device, more than once"
EVERY_RUN_KEPT = "One run may flatter. Each is recorded in Measures under load, and all of them are kept."


def harness_wire(tap: int) -> str:
    return f"the harness's wire of tap {tap}"


def harness_wire_off(tap: int) -> str:
    return f"the harness's wire of tap {tap}, off again"


def trial_because(wired: bool) -> str:
    stands = "no group passes full" if wired else "no cell grows warm"
    return f"Stay with it: it ends by itself, and {stands}. A wire moved, a joint made or cells changed after it void it: then once more."


def second_look(wired: bool) -> str:
    return (
        "A group that fell further than its neighbours leaks. Read every group in Prove as well."
        if wired
        else "What fell further than a cell loses by itself leaks. Read each cell in Prove as well."
    )

"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.wording import counted

ENDS_BEFORE_IT_BEGINS = "ends before it begins; give a later time"
BEGUN_TAKES_NO_HANDS = "what has begun takes no hands and waits for nothing; leave hands_min and after out"
CHANNEL_TOLD_TWICE = "a channel is named twice; name each once"
IN_A_CIRCLE = "It waits for itself by way of others: take one of the “after” away."
NOBODY_THERE = "Nobody is there any more: give more hours."
NO_ROOM = "There is no room left for it in these hours: give more, or put something off."
BEST = "No plan is better."
GOOD = "The best that was found in the time there is."
ON_ITS_CHANNEL = "Its channel has another task that has begun."


def told_twice(name: str) -> str:
    return f"the task {name} is told twice; name each once"


def no_such_task(name: str) -> str:
    return f"there is no task {name}; name one of the list"


def no_such_channel(name: str) -> str:
    return f"there is no channel {name}; name one of the list"


def hands_too_long(minutes: float) -> str:
    return f"Its {counted(round(minutes, 1), 'minute')} of hands fit into none of the hours."


def attended_too_long(minutes: float) -> str:
    return f"Somebody must be there for {counted(round(minutes, 1), 'minute')} on end, and nobody is so long."


def waits_for(name: str) -> str:
    return f"It waits for {name}, which has no place."


def by_a_rule(count: int) -> str:
    return f"{counted(count, 'task')} are too many to weigh one against another: laid out by a rule."

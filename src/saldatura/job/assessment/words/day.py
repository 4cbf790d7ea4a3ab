"""What `day` says of the tasks of jobs."""

from collections.abc import Sequence

from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import agree, counted

CANNOT_BE_TOLD = "What comes next of it cannot be told"
CALENDAR_NOWHERE = "say where on this machine it lies, or bring its file in"
CUSTOMER = "The customer was asked, and has not answered"
HELD = "Held in quarantine: release it, or close it as scrap"
BY_ITSELF = {
    "charge": "charges", "rest": "rests", "cure": "cures", "cool": "cools", "capacity": "capacity test", "self_discharge": "watched for self-discharge", "load": "load run",
}  # fmt: skip
FREES = {
    "quarantine": "Open Take in",
    "customer": "Record the answer",
    "parts": "Book what came",
    "not_told": "Open the job",
    "paused": "Let its clock run",
    "no_time": "Give more hours",
}
LOOK_UNSEEN = "A look at it is due while nobody is here."
WATCHED = "First charge after a repair: somebody stays with it."
DOES_NOT_STOP = "It does not end by itself."
PAUSED = "Its simulated clock is paused"


def step(kind: str, groups: Sequence[int]) -> str:
    """A step as the hands do it."""
    named = groups_words(groups).lower() if groups else "the pack"
    match kind:
        case "screen":
            return "Answer the safety screen"
        case "read":
            return f"Read {named}" if groups else "Read its groups"
        case "judge":
            return "Judge it"
        case "plan":
            return f"Plan what becomes of {named}" if groups else "Compare repairs"
        case "repair":
            return "Do the repair"
        case "read_new":
            return f"Read the new cells of {named}" if groups else "Read the new cells"
        case "charge":
            return f"Put {named} on charge" if groups else "Level it"
        case "end_charge":
            return f"Take {named} off and read {agree(len(groups) or 1, 'it', 'them')}"
        case "prove":
            return "Read every group for the proof"
        case "load":
            return "Run it under load, and stay with it"
        case "test":
            return "Put it on the capacity test"
        case "watch":
            return "Read the groups again for self-discharge"
        case "hand_over":
            return "Sign it and hand it over"
        case _:
            return "Close the job"


def over(kind: str, group: int | None) -> str:
    """A wait that is over, as what is done then."""
    match kind:
        case "charge":
            return f"Look at group {group}: it should be full"
        case "capacity":
            return "Look at the capacity test"
        case _:
            return "Read the groups again for self-discharge"


def parts_missing(count: int) -> str:
    return f"{counted(count, 'part')} of its order {agree(count, 'is', 'are')} missing"


def driven(what: str, stops: bool) -> str:
    return f"Its {what} is on: never left alone{'' if stops else ', and it does not stop by itself'}."

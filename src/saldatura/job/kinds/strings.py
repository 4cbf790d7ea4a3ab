"""Part the strings of a pack, or join them again."""

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.joining import SUMS_AGREE_V, TOGETHER_STRINGS_V
from saldatura.battery.limits.policy import Policy
from saldatura.job import taking_back
from saldatura.job.assessment.groups import groups_now, sums_of_strings
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import JobFacts
from saldatura.job.facts.strings import NewStrings, StringsFact
from saldatura.job.gates import common as gates
from saldatura.job.gates import words
from saldatura.ledger.kind import Kind


def strings(facts: JobFacts, new: NewStrings, policy: Policy) -> None:
    """Strings that are there, in the other state; they are joined where the meter shows them together, and the groups do not contradict it.
    Nothing on a charger meanwhile.
    """
    gates.work(facts)
    pack = facts.intake.pack
    if pack.strings < 2:
        raise Refused("strings", "one_string", words.ONE_STRING)
    if new.joined != facts.parted:
        raise Refused(
            "strings", "strings_so_already", words.STRINGS_ARE_JOINED if new.joined else words.STRINGS_ARE_PARTED
        )
    gates.not_charging(facts)
    if not new.joined:
        return
    if len(new.apart_v) != pack.strings - 1:
        raise Impossible(
            "apart_v", "readings_between_missing", words.strings_want_readings(pack.strings - 1, len(new.apart_v))
        )
    sums = sums_of_strings(facts, groups_now(facts, assess_set(facts, "probe", policy), policy))
    for string, read in enumerate(new.apart_v, start=2):
        if abs(read) > TOGETHER_STRINGS_V:
            raise Refused("apart_v", "strings_stand_apart", words.string_stands_apart(string, read, TOGETHER_STRINGS_V))
        first, own = sums[0], sums[string - 1]
        if first is not None and own is not None and abs(own - first - read) > SUMS_AGREE_V * pack.in_string:
            raise Refused("apart_v", "groups_say_otherwise", words.groups_say_otherwise(string, own - first, read))


KIND = Kind(
    "strings",
    StringsFact,
    NewStrings,
    gate=lambda facts, new, m: strings(facts, new, m.policy),
    against=taking_back.unrested,
    path="strings",
    summary="Part the strings of a pack, or join them again.",
)

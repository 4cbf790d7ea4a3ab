"""Tell the customer when the pack is ready."""

from datetime import timedelta

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts
from saldatura.job.facts.promised import NewPromise, PromiseFact
from saldatura.job.gates import common as gates
from saldatura.job.gates import words
from saldatura.job.moment import Moment
from saldatura.ledger.kind import Kind

MOST = timedelta(days=366)


def promise(facts: JobFacts, new: NewPromise, moment: Moment) -> None:
    """A promise is of a day to come, within a year, of a job that is not closed."""
    gates.not_signed(facts)
    if not moment.at < new.ready < moment.at + MOST:
        raise Impossible("ready", "day_is_past", words.PROMISE_A_DAY_TO_COME)


KIND = Kind(
    "promise",
    PromiseFact,
    NewPromise,
    gate=promise,
    closed=True,
    against=taking_back.nothing,
    path="promises",
    summary="Record when the customer was told that the pack is ready.",
    ahead=True,
)

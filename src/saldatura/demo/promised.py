"""What customers were told of packs on the bench: days, and a question that waits for its answer."""

from datetime import datetime, timedelta

from saldatura.demo.teller import Teller
from saldatura.job.facts.promised import NewAsked, NewPromise
from saldatura.records import jobs

# Hours from now by which a pack is promised, by its name.
READY_H = {
    "Vine shears backpack B": 9.0,
    "Canopy survey drone, spare": 30.0,
    "Grape-press torque driver": 26.0,
    "Must pump": 53.0,
}
ASKED, ASKED_AGO_H = "Grafting lamp", 2.0


def promised(tell: Teller, now: datetime) -> None:
    """Promises as they were made an hour ago, and the question as it was asked."""
    names = {tell.bench.facts(job).intake.pack_name: job for job in jobs.open_ones(tell.bench.db.read())}
    tell.begin(now - timedelta(hours=ASKED_AGO_H))
    tell.job = names[ASKED]
    tell.add(NewAsked(note="Both groups were run flat: pre-charge and hope, or new cells?"))
    for name, hours in READY_H.items():
        tell.begin(now - timedelta(hours=1))
        tell.job = names[name]
        tell.add(NewPromise(ready=now + timedelta(hours=hours), chance=0.8, by="Ilka"))

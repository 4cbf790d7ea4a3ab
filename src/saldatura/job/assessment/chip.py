"""What the pack's own chip said, held against what is known of the pack: its readings, its label, its age, and whether it gives current."""

from datetime import datetime, timedelta
from typing import Literal

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.smart import GIVES_SHARE, READ_WITHIN_H
from saldatura.battery.measures.kinds.registers_read import RegistersMeasure
from saldatura.battery.quantities import GroupReading, PackPoint, Reading, Value
from saldatura.battery.smart.registers import registers
from saldatura.battery.smart.sheet import SheetLine, sheet
from saldatura.battery.smart.types import RegistersRequest, RegistersSay
from saldatura.job.assessment.equipped import board_since
from saldatura.job.assessment.groups import group_volts, reads_of
from saldatura.job.assessment.rest import flows
from saldatura.job.facts import JobFacts
from saldatura.job.facts.measure import MeasureFact


class ChipReading(Value):
    """A reading of the chip: when, how, every word as it came, and what the words say, held against the rest of the job."""

    id: int
    at: datetime
    by: Literal["bus", "simulated", "text"]
    fed: bool
    says: RegistersSay
    words: list[SheetLine]


def chip_readings(facts: JobFacts, policy: Policy) -> list[ChipReading]:
    """Every reading of the chip that is in the pack as it stands, the newest first: that of a board that is out of it is another one's."""
    since = board_since(facts)
    return [
        chip_reading(facts, fact, fact.measure, policy)
        for fact in reversed(facts.measures)
        if isinstance(fact.measure, RegistersMeasure) and fact.id > since
    ]


def chip_reading(facts: JobFacts, fact: MeasureFact, measure: RegistersMeasure, policy: Policy) -> ChipReading:
    """One reading, with what contradicts it."""
    request = request_of(facts, measure, policy, fact.at, fact.id)
    said = registers(request)
    return ChipReading(
        id=fact.id, at=fact.at, by=measure.by, fed=measure.fed, says=said, words=sheet(request, said)
    )  # fmt: skip


def request_of(
    facts: JobFacts, measure: RegistersMeasure, policy: Policy, at: datetime, number: int | None = None
) -> RegistersRequest:
    """The words with what is known beside them at that time. `number`: of the fact; None for one that is not kept yet."""
    intake = facts.intake
    asked_at = number if number is not None else facts.last_id

    def flowed(order: int) -> bool:
        """Whether a current flowed between the reading of a group and that of the chip: they are of different charge then."""
        return any(min(order, asked_at) < flow.fact <= max(order, asked_at) for flow in flows(facts))

    # Groups of strings side by side are not the chip's cells one by one.
    alone = intake.pack.strings == 1
    readings: list[Reading] = []
    if alone and WINDOWS[intake.pack.chemistry].family == "lithium":
        near = [
            (k, read)
            for k, read in reads_of(facts, policy).items()
            if abs(read.at - at) < timedelta(hours=READ_WITHIN_H)
            and read.read_in != "drawer"
            and not flowed(read.order)
        ]
        readings = [GroupReading(group=k, volts=read.volts) for k, read in near]
    return measure.asked.model_copy(
        update={
            "readings": readings,
            "chemistry": intake.pack.chemistry,
            "series": intake.pack.series if alone else None,
            "labelled_ah": intake.pack.whole_ah,
            "age_years": intake.age_years,
            "today": at.date(),
            "gives_current": gives_current(facts, policy),
        }
    )


def gives_current(facts: JobFacts, policy: Policy) -> bool | None:
    """Whether the terminals give anything: not where they read next to nothing beside charged groups, or the pack is said to be dead."""
    string = sum(group_volts(facts, policy).values())
    # What was read before something was mended says nothing of the path since.
    mended = max((work.id for work in facts.works), default=0)
    at_terminals = [
        r.volts for r in facts.readings if isinstance(r.point, PackPoint) and r.volts is not None and r.id > mended
    ]
    if at_terminals and string > 0:
        return abs(at_terminals[-1]) > GIVES_SHARE * string
    return False if "dead" in facts.intake.symptoms and not facts.works else None

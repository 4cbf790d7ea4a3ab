"""Correct whose pack it is and what it is."""

from saldatura.battery.errors import Refused
from saldatura.battery.limits.policy import Policy
from saldatura.battery.string.hazard import in_scope
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.facts import Intake, IntakeFact, JobFacts
from saldatura.job.gates.common import not_signed
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def _intake(facts: JobFacts, new: Intake, moment: Moment) -> None:
    if facts.by_class:
        correction(facts, new, moment.policy)
    else:
        intake(new, moment.policy)


def _fits_intake(facts: JobFacts, fact: IntakeFact, _before: dict[int, Fact]) -> None:
    if facts.by_class:
        correction(facts, fact, Policy())


def intake(new: Intake, policy: Policy) -> None:
    """A pack above the voltage limit is not taken in."""
    in_scope(new.pack, policy=policy)


def correction(facts: JobFacts, new: Intake, policy: Policy) -> None:
    """A corrected intake must still hold every reading taken, and nothing changes after the sign-off. Once cells were put in or a group was
    left out, how the pack is built is told by that.
    """
    not_signed(facts)
    intake(new, policy)
    as_taken_in, now = facts.as_told.pack, facts.intake.pack
    if new.pack.chemistry != as_taken_in.chemistry and (lost := lost_of(facts, policy)):
        raise Refused(
            "condemned",
            "chemistry_clears_nothing",
            f"another chemistry does not clear a group that is condemned. Group {min(lost)}: {lost[min(lost)]}",
        )
    if facts.structure.began:
        if (
            new.pack.series not in (as_taken_in.series, now.series)
            or (new.pack.parallel, new.pack.strings) != (as_taken_in.parallel, as_taken_in.strings)
            or new.pack.chemistry != as_taken_in.chemistry
        ):
            raise Refused(
                "intake",
                "pack_changed_since",
                f"the pack was changed since: it came as {as_taken_in.label} and is {now.label} now; take that back first to correct how it is built",
            )
        return
    highest = max((max(facts.intake.pack.span(r.point)) for r in facts.readings if r.point.kind != "pack"), default=0)
    if facts.readings and facts.intake.pack.strings != new.pack.strings:
        raise Refused(
            "intake", "readings_by_strings", "readings are recorded by the strings that were told; take them back first"
        )
    if new.pack.series < highest:
        raise Refused(
            "intake",
            "readings_beyond",
            f"readings up to tap {highest} are recorded; a pack of {new.pack.series} in series has no such tap",
        )


def record_intake(facts: JobFacts, new: Intake, moment: Moment) -> list[Fact]:
    """An intake; of a pack that was shortened since, the form shows the groups that are left and the record keeps those that came in."""
    fields = dict(new)
    if facts.by_class and facts.structure.shifts:
        came = facts.as_told
        fields["pack"] = new.pack.model_copy(update={"series": came.pack.series, "rated_ah": came.pack.rated_ah})
        fields["outside_taps"] = came.outside_taps
    return [IntakeFact(**fields, **moment.stamp)]


KIND = Kind(
    "intake",
    IntakeFact,
    Intake,
    gate=_intake,
    make=record_intake,
    fits=_fits_intake,
    closed=True,
    path="intake",
    summary="Correct whose pack it is and what it is.",
    creates=False,
)

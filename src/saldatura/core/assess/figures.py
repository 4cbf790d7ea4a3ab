"""Figures measured of single groups: capacity and 10 s resistance, each with the measure that it came from."""

from saldatura.core.facts import JobFacts
from saldatura.core.measure import CapacityMeasure, StepMeasure, measured
from saldatura.core.quantities import Value


class Figure(Value):
    """A measured figure of a group and what it came from, in words; `fact` is the number of the measure or set."""

    value: float
    told: str
    fact: int


def replaced_at(facts: JobFacts) -> dict[int, int]:
    """Groups whose cells were replaced, and the number of the fact that says so last: what was measured before is of other cells."""
    return {fact.group: fact.id for fact in facts.replaced}


def capacities(facts: JobFacts) -> dict[int, Figure]:
    """The last capacity measured of each group by itself since its cells are in."""
    found: dict[int, Figure] = {}
    new = replaced_at(facts)
    for fact in facts.measures:
        of = fact.measure
        if isinstance(of, CapacityMeasure) and of.group is not None and fact.id > new.get(of.group, 0):
            found[of.group] = Figure(value=of.ah, told=f"a discharge of {of.ah:.2f} Ah ({of.source})", fact=fact.id)
    return found


def resistances(facts: JobFacts) -> dict[int, Figure]:
    """The last 10 s resistance measured of each group since its cells are in. One at 1 kHz is another quantity."""
    found: dict[int, Figure] = {}
    new = replaced_at(facts)
    for fact in facts.measures:
        of = fact.measure
        if not isinstance(of, StepMeasure) or of.log.group is None or fact.id <= new.get(of.log.group, 0):
            continue
        stepped = measured(facts.memo, fact, facts.intake.pack.rated_ah).step
        if stepped is not None and stepped.ten_s_ohm is not None and stepped.ten_s_ohm > 0:
            told = f"a step of {abs(stepped.step_a):.2g} A"
            found[of.log.group] = Figure(value=stepped.ten_s_ohm, told=told, fact=fact.id)
    return found

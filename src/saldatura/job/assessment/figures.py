"""Figures measured of single groups: capacity and 10 s resistance, each with the measure or the charge that it came from."""

from saldatura.battery.cell.curves import REST_SIGMA_V, curves_for
from saldatura.battery.cell.resistance import SLOW_PER_FAST, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.acceptance import COUNTED_DOUBT, COUNTED_SHARE
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.measures.kinds.step import StepMeasure
from saldatura.battery.quantities import Value
from saldatura.job.assessment.words import figures as words
from saldatura.job.facts import ChargeRun, JobFacts
from saldatura.job.facts.measure import measured


class Figure(Value):
    """A measured figure of a group and what it came from, in line; `fact` is the number of the measure or set. `tested`: by a test of its
    own, and not as a charge told it beside.
    """

    value: float
    source: str
    fact: int
    tested: bool = True


def capacities(facts: JobFacts) -> dict[int, Figure]:
    """The last capacity measured of each group by itself since its cells are in; where none was, what its last charge told."""
    found = _charged_ah(facts)
    for fact in facts.measures:
        measure = fact.measure
        if isinstance(measure, CapacityMeasure) and measure.group is not None and not measure.at_least:
            found[measure.group] = Figure(
                value=measure.ah, source=words.discharge_of(measure.ah, measure.source), fact=fact.id
            )
    return found


def resistances(facts: JobFacts) -> dict[int, Figure]:
    """The last 10 s resistance measured of each group since its cells are in; where none was, what its last charge told. One at 1 kHz
    is another quantity.
    """
    found = _charged_ohm(facts)
    for fact in facts.measures:
        measure = fact.measure
        if not isinstance(measure, StepMeasure) or measure.log.group is None:
            continue
        stepped = measured(facts.memo, fact, facts.intake.pack).step
        if stepped is not None and stepped.ten_s_ohm is not None and stepped.ten_s_ohm > 0:
            source = words.step_of(stepped.step_a)
            found[measure.log.group] = Figure(value=stepped.ten_s_ohm, source=source, fact=fact.id)
    return found


def _charged_ohm(facts: JobFacts) -> dict[int, Figure]:
    """What the taper of each group's last charge told of its resistance."""
    return {
        run.group: Figure(
            value=run.stopped.measured.ohm,
            source=words.charge_m(run.stopped.measured.ohm, run.stopped.measured.ohm_doubt),
            fact=run.stopped.id,
            tested=False,
        )
        for run in facts.charges
        if run.stopped is not None and run.stopped.measured.ohm is not None
    }


def _charged_ah(facts: JobFacts) -> dict[int, Figure]:
    """What each group's last charge told of its capacity: by its log, else by what a charger counted between two rest voltages."""
    found: dict[int, Figure] = {}
    for run in facts.charges:
        measured = run.stopped.measured if run.stopped is not None else None
        if measured is not None and run.stopped is not None and measured.ah is not None:
            line = words.charge_ah_ah_doubt(measured.ah, measured.ah_doubt)
            found[run.group] = Figure(value=measured.ah, source=line, fact=run.stopped.id, tested=False)
        elif (counted := _counted(facts, run)) is not None:
            ah, doubt = counted
            assert run.end is not None
            line = words.charge_by_what_charger(ah, doubt)
            found[run.group] = Figure(value=round(ah, 3), source=line, fact=run.end.id, tested=False)
    return found


def _counted(facts: JobFacts, run: ChargeRun) -> tuple[float, float] | None:
    """Capacity and its doubt by the charge that went in over the charge that the rest voltages before and after lie apart; None
    where that doubt is more than a tenth. Every curve of the chemistry, each voltage off by what a rest voltage may be.
    """
    chemistry = facts.intake.pack.chemistry
    window, end = WINDOWS[chemistry], run.end
    if (
        end is None
        or end.outcome != "finished"
        or not end.counted_ah
        or end.volts is None
        or window.family != "lithium"
    ):
        return None
    # Read when the charger has just stopped, a group stands above its rest by what its slow branch holds at the end current.
    settled_v = run.cutoff_a * (usual_resistance_ohm(chemistry, facts.intake.pack.rated_ah)) * SLOW_PER_FAST
    found = []
    for curve in curves_for(chemistry):
        for side in (-1, 0, 1):
            before = curve.soc_at(max(run.start_v + side * REST_SIGMA_V * 2, curve.empty_v))
            after = curve.soc_at(min(end.volts - settled_v - side * REST_SIGMA_V * 2, window.full_v))
            if after - before < COUNTED_SHARE:
                return None
            found.append(end.counted_ah / (after - before))
    ah, doubt = (max(found) + min(found)) / 2, (max(found) - min(found)) / 2
    return (ah, doubt) if doubt <= COUNTED_DOUBT * ah else None

"""What is told of a pack that goes back: what was wrong, what was done, what it can now, how it is treated, until when it is answered
for; and which cells stayed here.
"""

from calendar import monthrange
from collections.abc import Mapping
from datetime import date, datetime

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.kinds.capacity import CapacityMeasure, of_one_group
from saldatura.battery.quantities import Value
from saldatura.job.assessment.condemned import before_change, every_why
from saldatura.job.assessment.equipped import board_of, charger_says, has_board
from saldatura.job.assessment.proving import DEAD_SHORT, ProofPlan, ProofTest
from saldatura.job.assessment.story import Done, changes
from saldatura.job.assessment.words import handing as words
from saldatura.job.assessment.words.condemned import WASTE_WORDS
from saldatura.job.assessment.words.handing import OF_ORIGIN, PLAIN
from saldatura.job.assessment.words.story import LACKS_WORDS, ORIGIN_WORDS
from saldatura.job.facts import JobFacts, SafetyFact
from saldatura.job.facts.base import change_of
from saldatura.job.facts.becoming import BoardLacks
from saldatura.job.facts.fitted import FittedCell
from saldatura.job.facts.work import place_words
from saldatura.job.words import SYMPTOMS
from saldatura.shop.cells.types import CellTook


class Term(Value):
    """What is answered for, for how many months, until when."""

    what: str
    months: float
    until: date


class CellsOut(Value):
    """Cells that were taken out: of which group as it was numbered when the pack came (0: of the whole pack), how many, of which kind, and how
    they were.
    """

    group: int
    cells: int
    kind: str
    state: str


class Handed(Value):
    """What the customer is told, in plain words, and what the collection gets. `warns`: what has become dangerous about the pack as it now is;
    `terms`: what is answered for, each for how long; `untested` and `failed`: tests by name that were not made, or did not pass.
    """

    wrong: str
    done: list[str]
    can: list[str]
    proved: list[str]
    not_proved: list[str]
    treat: list[str]
    warranty: str | None
    warranty_until: date | None
    capacity_ah: float | None
    fitted: list[str]
    out: list[CellsOut]
    warns: list[str] = []
    terms: list[Term] = []
    untested: list[str] = []
    failed: list[str] = []


class Earlier(Value):
    """The same pack here before: which job, when it went and how, what was done then, and whether that is still answered for."""

    job_id: int
    went: datetime | None
    scrapped: bool
    done: list[str]
    fitted: list[str]
    warranty_until: date | None
    answered_for: bool


def earlier_of(facts: JobFacts, handed: Handed, now: datetime) -> Earlier:
    """An earlier job as it is told beside the new one."""
    signed = facts.sign_off
    until = handed.warranty_until if signed is not None and signed.outcome != "scrap" else None
    return Earlier(
        job_id=facts.id, went=signed.at if signed is not None else None, scrapped=signed is not None and signed.outcome == "scrap",
        done=handed.done, fitted=handed.fitted, warranty_until=until, answered_for=until is not None and now.date() <= until,
    )  # fmt: skip


def fitted_of(facts: JobFacts, cells: Mapping[str, CellTook]) -> list[str]:
    """What was put in, and where: cells by name with their type and where they came from, boards, wires and other parts. `cells`: those
    of the drawer, by name.
    """
    said = []
    for group, seat in enumerate(facts.structure.seats, start=1):
        if seat.fitted is None or seat.cut_out:
            continue
        kinds: dict[str, list[str]] = {}
        for cell in seat.fitted:
            kinds.setdefault(_whence(cell, cells.get(cell.cell)), []).append(cell.cell)
        cells_said = "; ".join(_cells_said(kind, names) for kind, names in kinds.items())
        was = words.group_when_it_came(seat.was) if seat.was != group else ""
        said.append(f"Group {group}{was}: {cells_said}")
    return said + [f"{place_words(w.place).capitalize()}: {w.parts}" for w in facts.works if w.parts]


def _cells_said(kind: str, names: list[str]) -> str:
    named = [name for name in names if name]
    return f"{', '.join(named)} ({kind})" if named else f"{len(names)} {kind}{'' if len(names) == 1 else 's'}"


def _whence(cell: FittedCell, took: CellTook | None) -> str:
    if took is None:
        return words.origin_cell(OF_ORIGIN[cell.origin], cell.cell)
    came = f", came {took.came_on:%d.%m.%Y}" if took.came_on is not None else ""
    out_of = (
        words.out_of_job(took.donor_job)
        if took.donor_job is not None
        else words.out_of(took.donor)
        if took.donor
        else ""
    )
    box = f", box {took.box}" if took.box else ""
    return f"{took.type}, {took.origin}{out_of}{came}{box}"


def handed_of(
    facts: JobFacts,
    plan: ProofPlan,
    done: list[Done],
    fitted: list[str],
    cause: str | None,
    on: datetime,
    policy: Policy,
) -> Handed:
    """The words of a job. `cause`: the confirmed or ruled cause in words, where there is one; `on`: the day it goes back."""
    pack = facts.intake.pack
    measured = next(
        (m.measure for m in reversed(facts.measures) if isinstance(m.measure, CapacityMeasure) and m.measure.group is None and not of_one_group(m.measure, pack)), None
    )  # fmt: skip
    levelled = sorted({run.group for run in facts.charges if run.end is not None and run.end.outcome == "finished"})
    said = [
        *([words.brought_to_charge(levelled)] if levelled else []),
        *(d.says for d in done),
    ]  # fmt: skip
    ah = measured.ah if isinstance(measured, CapacityMeasure) else None
    can = (
        [words.gives_of_its_label(measured.ah, pack.whole_ah, measured.at_least)]
        if isinstance(measured, CapacityMeasure)
        else [words.CAPACITY_WAS_NOT_MEASURED]
    )
    run = next((t for t in plan.tests if t.name == "load_run"), None)
    if run is not None and run.outcome == "pass":
        can.append(words.under_load_it_ran(run.measured))
    terms = _terms(facts, bool(said), on.date(), policy)
    longest = max(terms, key=lambda term: term.months, default=None)
    window = WINDOWS[pack.chemistry]
    return Handed(
        wrong=cause or (", ".join(SYMPTOMS[s] for s in facts.intake.symptoms).capitalize() or "Not told."),
        done=said or [words.MEASURED_NOTHING_WAS_CHANGED],
        can=can, proved=[plainly(t) for t in plan.tests if t.outcome == "pass"], not_proved=plan.not_proved,
        treat=_treat(window.family == "lithium", window.storage_v, bool(facts.structure.shifts)),
        warranty=words.months_on(longest.months, longest.what) if longest is not None else None,
        warranty_until=longest.until if longest is not None else None, capacity_ah=ah, fitted=fitted,
        out=cells_out(facts, policy), warns=_warns(facts), terms=terms,
        untested=[*(t.label for t in plan.tests if t.outcome not in ("pass", "fail")), *([DEAD_SHORT] if has_board(facts) else [])],
        failed=[t.label for t in plan.tests if t.outcome == "fail"],
    )  # fmt: skip


def _warns(facts: JobFacts) -> list[str]:
    """What has become dangerous, or is missing, since the pack came."""
    found = [said] if (said := charger_says(facts)) is not None else []
    board = board_of(facts)
    if board.make == "other" and board.lacks:
        found.append(words.board_is_of_another(", ".join(LACKS_WORDS[lack] for lack in board.lacks), _so(board.lacks)))
    return found


def _so(lacks: list[BoardLacks]) -> str:
    so: Mapping[BoardLacks, str] = {
        "temperature": words.NOTHING_STOPS_CHARGE, "fuse": words.NOTHING_CUTS_SHORT_CIRCUIT,
        "group_limits": words.NO_GROUP_IS_WATCHED, "balancing": words.NOTHING_LEVELS_GROUPS,
    }  # fmt: skip
    return "; ".join(so[lack] for lack in lacks)


def plainly(test: ProofTest) -> str:
    if test.name in ("wiggle", "full_charge"):
        return test.plain or PLAIN[test.name]
    measured = f": {test.measured}" if test.name in ("load_run", "capacity") and test.measured else ""
    return f"{PLAIN[test.name]}{measured}"


def _terms(facts: JobFacts, anything: bool, day: date, policy: Policy) -> list[Term]:
    """What is answered for: cells by what they are, each for its own time; else what was mended, else the levelling. Only what was done."""
    fitted = {cell.origin for seat in facts.structure.seats if not seat.cut_out for cell in seat.fitted or ()}
    terms: list[tuple[str, float]] = []
    for origin, months in (
        ("new", policy.warranty_cells_months),
        ("used", policy.warranty_used_months),
        ("donor", policy.warranty_used_months),
    ):
        if origin in fitted:
            terms.append((words.were_put(ORIGIN_WORDS[origin]), months))
    mended = facts.works or facts.joined or facts.structure.shifts
    if mended and not fitted:
        terms.append(("what was mended", policy.warranty_repair_months))
    if anything and not terms:
        terms.append(("the levelling", policy.warranty_level_months))
    return [Term(what=what, months=months, until=_months_on(day, months)) for what, months in terms if months]


def _months_on(day: date, months: float) -> date:
    """The same day so many months on, or the last of a shorter month."""
    at = day.month - 1 + round(months)
    year, month = day.year + at // 12, at % 12 + 1
    return date(year, month, min(day.day, monthrange(year, month)[1]))


def _treat(lithium: bool, storage_v: float, shortened: bool) -> list[str]:
    own = words.CHARGER_NAMED_ABOVE if shortened else "its own charger"
    if not lithium:
        return [
            words.charge_it(own),
            words.BEFORE_WINTER_CHARGED_DRY,
            words.WARM_TO_HAND_WHILE,
        ]
    return [
        words.charge_it_with_only(own),
        words.before_winter_half_charged(storage_v),
        words.SWOLLEN_LEAKING_SMELLING,
    ]


def cells_out(facts: JobFacts, policy: Policy) -> list[CellsOut]:
    """Cells that stay here as waste: those that others were put in for, groups that were left out, and all that is left of a pack that is
    scrapped; each group with everything ever seen of it, less what was cut out for the drawer.
    """
    parallel, kind = facts.intake.pack.parallel, WINDOWS[facts.intake.pack.chemistry].name
    found: list[CellsOut] = []
    for change in sorted({fact.id for fact in changes(facts)}):
        then = before_change(facts, change)
        fact = next(f for f in facts.whole if f.id == change)
        made = change_of(fact)
        fitted, left = made.fitted, made.left_out
        out = [put.group for put in fitted]
        out += [left.group] if left is not None and left.where == "to waste" else []
        for group in out:
            seat = then.structure.seats[group - 1]
            if not seat.cut_out and not (seat.fitted is not None and any(cell.cell for cell in seat.fitted)):
                said = left.because if left is not None and left.group == group else words.TAKEN_OUT_IN_REPAIR
                found.append(
                    CellsOut(group=seat.was, cells=parallel, kind=kind, state=_state(then, group, said, policy))
                )
    signed = facts.sign_off
    if signed is not None and signed.outcome == "scrap":
        left_in = [(k, s) for k, s in enumerate(facts.structure.seats, start=1) if not s.cut_out]
        states = {k: _state(facts, k, "", policy) for k, _ in left_in}
        if left_in and len(set(states.values())) == 1 and len(left_in) == len(facts.structure.seats):
            state = _state(facts, left_in[0][0], "", policy, whole=True)
            found.append(CellsOut(group=0, cells=parallel * len(left_in), kind=kind, state=state))
        else:
            found += [CellsOut(group=s.was, cells=parallel, kind=kind, state=states[k]) for k, s in left_in]
    return found


def _state(facts: JobFacts, group: int, said: str, policy: Policy, whole: bool = False) -> str:
    """How a group's cells are, or all of the `whole` pack: everything that condemned them, what was found of the pack and never placed, and what was said when they came out."""
    lost = every_why(facts, policy).get(group, [])
    looks = [
        WASTE_WORDS[condemned.why] if condemned.placed or whole else f"perhaps {WASTE_WORDS[condemned.why]}"
        for condemned in lost
    ]
    looks += [
        d
        for d in dict.fromkeys(d for screen in facts.recorded(SafetyFact) for d in screen.found)
        if d in ("hot", "smell", "wet")
    ]
    looks += [said.strip()] if said.strip() else []
    return ", ".join(dict.fromkeys(looks)) or words.NOT_DAMAGED_AS_SEEN

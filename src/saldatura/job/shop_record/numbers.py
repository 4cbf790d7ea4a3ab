"""Numbers of the shop from what its signed jobs took: hours, minutes against plan, right the first time, margin, cells and kilograms kept."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime

from saldatura.battery.day.usual import StepKind
from saldatura.battery.limits.acceptance import SOON_DAYS
from saldatura.battery.limits.day import LEAST_SHOWN_H
from saldatura.battery.quantities import Value
from saldatura.job.returns import DAY_S, KIND_WORDS, Outing, ReturnedKind
from saldatura.job.shop_record import words
from saldatura.job.took import Took


class KindNumbers(Value):
    """One kind of repair: jobs, hours of hands, mean minutes against the plan's, packs out long enough to tell and how many of those stayed out,
    and what was left of the prices after parts and labour. `priced`: jobs whose margin is known.
    """

    kind: ReturnedKind
    name: str
    jobs: int
    hours: float
    mean_min: float
    timed: int
    planned: int
    taken_of_planned: float | None
    known: int
    right: int
    priced: int
    margin: float | None


class StepNumbers(Value):
    """Hours of hands at one step of the work."""

    step: StepKind
    name: str
    hours: float


class MonthNumbers(Value):
    """One month: packs handed back, scrapped, hours of hands, cells and kilograms kept from waste, margin where it is known."""

    month: str
    handed_back: int
    scrapped: int
    hours: float
    cells: int
    kg: float
    margin: float | None


class PromiseNumbers(Value):
    """What was promised: how many, how many kept, and how late the others were, hours. `expected`: how many were to be kept by the chance they were told with."""

    made: int
    kept: int
    expected: float | None
    mean_late_h: float | None
    says: str
    broken: list["Broken"]


class Broken(Value):
    """A promise that was not kept."""

    job_id: int
    pack_name: str
    ready: datetime
    signed_at: datetime
    late_h: float


class ShopNumbers(Value):
    """Numbers of the shop over the jobs it signed. `simulated`: there are no real ones, and these are of virtual packs."""

    jobs: int
    hours: float
    kinds: list[KindNumbers]
    steps: list[StepNumbers]
    months: list[MonthNumbers]
    cells: int
    kg: float
    promises: PromiseNumbers
    margin_says: str
    simulated: bool


def of_one_sort(took: Sequence[Took]) -> tuple[list[Took], bool]:
    """Jobs of real packs where there are any, else those of virtual ones; and whether they are virtual."""
    real = [t for t in took if not t.simulated]
    return (real, False) if real else (list(took), bool(took))


def numbers_of(
    took: Sequence[Took],
    outings: Iterable[Outing],
    labour_h: float | None,
    now: datetime,
    month: Callable[[datetime], str],
) -> ShopNumbers:
    """The numbers of all signed jobs given. `labour_h`: what an hour of work costs, None where that is not told; `month`: which month a moment is of."""
    jobs, simulated = of_one_sort(took)
    went = [o for o in outings if o.simulated == simulated]
    kinds = [_kind(kind, jobs, went, labour_h, now) for kind in KIND_WORDS if any(t.kind == kind for t in jobs)]
    kinds.sort(key=lambda k: (-k.jobs, k.kind))
    hours: dict[StepKind, float] = {}
    for t in jobs:
        for step, minutes in t.hands.items():
            hours[step] = hours.get(step, 0.0) + minutes / 60
    return ShopNumbers(
        jobs=len(jobs), hours=round(sum(t.worked_min for t in jobs) / 60, 1), kinds=kinds,
        steps=sorted((StepNumbers(step=s, name=words.STEPS[s], hours=round(h, 1)) for s, h in hours.items() if h >= LEAST_SHOWN_H), key=lambda s: -s.hours),
        months=_months(jobs, labour_h, month), cells=sum(t.kept for t in jobs), kg=round(sum(t.kg_kept for t in jobs), 1),
        promises=promises_of(jobs), margin_says=words.margin(labour_h is not None, sum(t.price is not None for t in jobs)), simulated=simulated,
    )  # fmt: skip


def margin_of(took: Took, labour_h: float | None) -> float | None:
    """What is left of a job's price after parts and labour; None where one of the three is not known."""
    if took.price is None or took.parts is None or labour_h is None:
        return None
    return took.price - took.parts - labour_h * took.worked_min / 60


def _kind(
    kind: ReturnedKind, took: Sequence[Took], went: Sequence[Outing], labour_h: float | None, now: datetime
) -> KindNumbers:
    of_kind = [t for t in took if t.kind == kind]
    timed = [t for t in of_kind if t.worked_min > 0]
    planned = [t for t in timed if t.planned_min]
    out = [o for o in went if o.kind == kind]
    days = [((o.back or now) - o.went).total_seconds() / DAY_S for o in out]
    right = sum(d >= SOON_DAYS for d in days)
    soon = sum(o.back is not None and d < SOON_DAYS for o, d in zip(out, days, strict=True))
    margins = [m for t in of_kind if (m := margin_of(t, labour_h)) is not None]
    return KindNumbers(
        kind=kind, name=KIND_WORDS[kind], jobs=len(of_kind), hours=round(sum(t.worked_min for t in of_kind) / 60, 1),
        mean_min=round(sum(t.worked_min for t in timed) / len(timed), 1) if timed else 0.0, timed=len(timed), planned=len(planned),
        taken_of_planned=round(sum(t.worked_min for t in planned) / sum(t.planned_min or 0.0 for t in planned), 2) if planned else None,
        known=right + soon, right=right, priced=len(margins), margin=round(sum(margins) / len(margins), 2) if margins else None,
    )  # fmt: skip


def _months(took: Sequence[Took], labour_h: float | None, month: Callable[[datetime], str]) -> list[MonthNumbers]:
    by_month: dict[str, list[Took]] = {}
    for t in took:
        by_month.setdefault(month(t.signed_at), []).append(t)
    found = []
    for name, jobs in sorted(by_month.items()):
        margins = [m for t in jobs if (m := margin_of(t, labour_h)) is not None]
        found.append(MonthNumbers(
            month=name, handed_back=sum(t.outcome == "handed_back" for t in jobs), scrapped=sum(t.outcome == "scrap" for t in jobs),
            hours=round(sum(t.worked_min for t in jobs) / 60, 1), cells=sum(t.kept for t in jobs), kg=round(sum(t.kg_kept for t in jobs), 1),
            margin=round(sum(margins), 2) if margins else None,
        ))  # fmt: skip
    return found


def promises_of(took: Sequence[Took]) -> PromiseNumbers:
    """Promises made and kept."""
    made = [t for t in took if t.ready is not None and t.promised_at is not None and t.promised_at < t.signed_at]
    late = [
        (t, (t.signed_at - t.ready).total_seconds() / 3600)
        for t in made
        if t.ready is not None and t.signed_at > t.ready
    ]
    chances = [t.promised_chance for t in made if t.promised_chance is not None]
    broken = [
        Broken(job_id=t.job_id, pack_name=t.pack_name, ready=t.ready, signed_at=t.signed_at, late_h=round(h, 1))
        for t, h in sorted(late, key=lambda pair: pair[0].signed_at, reverse=True)
        if t.ready is not None
    ]
    mean = round(sum(h for _, h in late) / len(late), 1) if late else None
    return PromiseNumbers(
        made=len(made), kept=len(made) - len(late), expected=round(sum(chances), 1) if chances and len(chances) == len(made) else None,
        mean_late_h=mean, says=words.promises(len(made), len(made) - len(late), mean), broken=broken,
    )  # fmt: skip


def rows_of(numbers: ShopNumbers, table: str) -> tuple[Sequence[str], list[Sequence[object]]]:
    """A table of the numbers: its columns and rows. KeyError for one that is not there."""
    tables: Mapping[str, tuple[type[Value], Sequence[Value]]] = {
        "kinds": (KindNumbers, numbers.kinds), "steps": (StepNumbers, numbers.steps), "months": (MonthNumbers, numbers.months),
        "promises": (Broken, numbers.promises.broken),
    }  # fmt: skip
    model, lines = tables[table]
    names = list(model.model_fields)
    return names, [[getattr(line, name) for name in names] for line in lines]

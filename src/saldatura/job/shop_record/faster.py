"""What the shop could be faster with: its record played again with one more of each channel, tester and pair of hands."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from saldatura.battery.day.queue import QueuePiece, WorkingHours, played
from saldatura.battery.day.usual import StepKind
from saldatura.battery.limits.day import NEVER_S
from saldatura.battery.quantities import Value
from saldatura.job.shop_record import words
from saldatura.job.shop_record.numbers import of_one_sort
from saldatura.job.took import Took

# Steps before anything runs by itself, and after.
BEFORE: tuple[StepKind, ...] = ("screen", "read", "judge", "plan")
MENDS: tuple[StepKind, ...] = ("repair", "read_new")
AFTER: tuple[StepKind, ...] = ("prove", "load", "test", "watch", "hand_over", "close")
AT_CHARGE: tuple[StepKind, ...] = ("charge", "look", "end_charge")
HANDS = "hands"
LEAST_S = 60.0


class OneMore(Value):
    """What one more of a channel, a tester or a pair of hands would have saved, hours: of lateness, and of packs lying in the shop. `busy`: the share of
    the working hours in which those there are were taken. `weeks`: after how many it pays back, where its price was told.
    """

    what: str
    count: int
    busy: float
    late_h: float
    sooner_h: float
    weeks: float | None = None
    says: str
    pays: str = ""


class Faster(Value):
    """The record of so many days played again: lateness as it would have been with what there is, and with one more of each, the best first.
    Waits for parts and customers are as they were.
    """

    jobs: int
    days: float
    late_h: float
    options: list[OneMore]
    says: str
    simulated: bool


def faster_of(
    took: Sequence[Took],
    windows: Sequence[tuple[datetime, datetime]],
    begins: datetime,
    people: int,
    promise_days: float,
    late_h_costs: float | None,
    prices: Mapping[str, float],
) -> Faster:
    """Play the jobs signed since `begins` again. `windows`: when somebody was there; `late_h_costs`: what an hour of lateness costs; `prices`: of one more,
    by name. Without a promise a pack is late after `promise_days`.
    """
    jobs, simulated = of_one_sort([t for t in took if t.signed_at >= begins])
    hours = WorkingHours([((a - begins).total_seconds(), (b - begins).total_seconds()) for a, b in windows])
    pieces, last, due = _pieces(jobs, begins, promise_days)
    channels_now: dict[str, int] = {}
    for run in (r for t in jobs for r in t.runs if r.channel):
        channels_now[run.channel] = 1
    days = max((max((t.signed_at for t in jobs), default=begins) - begins).total_seconds() / 86_400, 1.0)
    base = _outcome(pieces, last, due, hours, people, channels_now)
    options = [
        _one_more(name, pieces, last, due, hours, people, channels_now, base, days, late_h_costs, prices)
        for name in [HANDS, *channels_now]
    ]
    options.sort(key=lambda o: (-o.late_h, -o.sooner_h, o.what))
    says = words.NONE_SIGNED if not jobs else words.NOTHING_LATE if base[0] < 0.5 else options[0].says
    return Faster(
        jobs=len(jobs), days=round(days, 1), late_h=round(base[0], 1), options=options, says=says, simulated=simulated
    )


def _pieces(
    took: Sequence[Took], begins: datetime, promise_days: float
) -> tuple[list[QueuePiece], dict[int, int], dict[int, float]]:
    """Every job as pieces in the order of its work; the last piece of each, and when it was due, s."""
    pieces: list[QueuePiece] = []
    last: dict[int, int] = {}
    due: dict[int, float] = {}
    for job, t in enumerate(took):
        came = max((t.opened_at - begins).total_seconds(), 0.0)
        due[job] = ((t.ready or t.opened_at + timedelta(days=promise_days)) - begins).total_seconds()
        chain: list[int] = []

        def add(
            hands_s: float, runs_s: float = 0.0, channel: str | None = None, after: tuple[int, ...] | None = None
        ) -> None:
            behind = tuple(chain[-1:]) if after is None else after  # noqa: B023
            pieces.append(QueuePiece(job=job, hands_s=hands_s, runs_s=runs_s, channel=channel, after=behind, from_s=came, due_s=due[job]))  # noqa: B023  # fmt: skip
            chain.append(len(pieces) - 1)  # noqa: B023

        add(_sum(t, BEFORE))
        if t.held_h > 0:
            add(0.0, t.held_h * 3600)
        if _sum(t, MENDS) > 0:
            add(_sum(t, MENDS))
        each = _sum(t, AT_CHARGE) / max(len(t.runs), 1)
        mended = tuple(chain[-1:])
        ended: list[tuple[datetime, int]] = []
        for run in t.runs:
            # What ran side by side may again.
            behind = tuple(k for to_at, k in ended if to_at <= run.from_at) or mended
            add(max(each, LEAST_S), (run.to_at - run.from_at).total_seconds(), run.channel or None, behind)
            ended.append((run.to_at, chain[-1]))
        add(_sum(t, AFTER), after=tuple(k for _, k in ended) or mended)
        last[job] = len(pieces) - 1
    return pieces, last, due


def _sum(took: Took, steps: Sequence[StepKind]) -> float:
    return 60.0 * sum(took.hands.get(step, 0.0) for step in steps)


def _outcome(
    pieces: Sequence[QueuePiece],
    last: Mapping[int, int],
    due: Mapping[int, float],
    hours: WorkingHours,
    people: int,
    channels: dict[str, int],
) -> tuple[float, float]:
    """Hours late and hours in the shop, over all jobs."""
    ends = played(pieces, hours, people, channels)
    done = {job: ends[k] for job, k in last.items() if ends[k] < NEVER_S}
    late = sum(max(at - due[job], 0.0) for job, at in done.items()) / 3600
    lay = sum(at - pieces[last[job]].from_s for job, at in done.items()) / 3600
    return late, lay


def _one_more(
    name: str,
    pieces: Sequence[QueuePiece],
    last: Mapping[int, int],
    due: Mapping[int, float],
    hours: WorkingHours,
    people: int,
    channels_now: dict[str, int],
    base: tuple[float, float],
    days: float,
    late_h_costs: float | None,
    prices: Mapping[str, float],
) -> OneMore:
    more = people + 1 if name == HANDS else people
    channels = channels_now if name == HANDS else {**channels_now, name: channels_now[name] + 1}
    late, lay = _outcome(pieces, last, due, hours, more, channels)
    saved, sooner = max(base[0] - late, 0.0), max(base[1] - lay, 0.0)
    worked = max(hours.worked_s(days * 86_400), 1.0)
    taken = (
        sum(p.hands_s for p in pieces) / people if name == HANDS else sum(p.runs_s for p in pieces if p.channel == name)
    )
    price, weeks = prices.get(name), None
    if price and late_h_costs and saved > 0:
        weeks = price / (saved * late_h_costs / (days / 7))
    said = words.HANDS if name == HANDS else words.one_more(name)
    return OneMore(
        what=name, count=people if name == HANDS else channels_now[name], busy=round(min(taken / worked, 9.99), 3), late_h=round(saved, 1),
        sooner_h=round(sooner, 1), weeks=None if weeks is None else round(weeks, 1), says=words.saved(said, saved, sooner),
        pays="" if weeks is None else words.pays_back(weeks),
    )  # fmt: skip

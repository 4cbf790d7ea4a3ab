"""The day in whole seconds: what of it can be placed at all, and what no plan could end before."""

import math
from dataclasses import dataclass

from saldatura.battery.day import words
from saldatura.battery.day.types import DayRequest, DayTask, Unplaced


@dataclass(frozen=True)
class Piece:
    """A task in whole seconds, by number: `after` are numbers too. `windows`: when it may begin, first and last second."""

    name: str
    hands: int
    wait: int
    after: tuple[int, ...]
    channel: str | None
    attended: bool
    due: int | None
    weight: int
    windows: tuple[tuple[int, int], ...]
    begun: bool = False

    @property
    def lasts(self) -> int:
        """From its beginning to its end, s."""
        return self.hands + self.wait


# Weights are counted in thousandths.
PER_WEIGHT = 1000


@dataclass(frozen=True)
class Frame:
    """What is to be placed, in an order in which each stands behind what it waits for; and what cannot be."""

    now: int
    people: int
    hands: tuple[tuple[int, int], ...]
    pieces: tuple[Piece, ...]
    unplaced: tuple[Unplaced, ...]


def frame_of(request: DayRequest) -> Frame:
    """The request in whole seconds, each rounded to its safe side."""
    now = math.ceil(request.now_s)
    hands = tuple(sorted((max(math.ceil(h.from_s), now), math.floor(h.to_s)) for h in request.hands if h.to_s > now))
    unplaced: list[Unplaced] = []
    gone: set[str] = set()
    taken: set[str] = set()
    order = _ordered(request.tasks)
    straight = {task.task for task in order}
    numbers: dict[str, int] = {}
    pieces: list[Piece] = []
    for task in [*order, *(t for t in request.tasks if t.task not in straight)]:
        why = None if task.task in straight else words.IN_A_CIRCLE
        waits = next((name for name in task.after if name in gone), None)
        piece = _piece(task, now, hands, numbers) if why is None and waits is None else None
        if why is None:
            why = words.waits_for(waits) if waits is not None else _nowhere(task, piece, hands)
        if why is None and piece is not None and piece.begun and piece.channel is not None:
            # Two that run on one channel cannot both be: the first that is told holds.
            why = words.ON_ITS_CHANNEL if piece.channel in taken else None
            taken.add(piece.channel)
        if why is not None or piece is None:
            gone.add(task.task)
            unplaced.append(Unplaced(task=task.task, because=why or words.NO_ROOM))
            continue
        numbers[task.task] = len(pieces)
        pieces.append(piece)
    return Frame(now, request.people, hands, tuple(pieces), tuple(unplaced))


def _ordered(tasks: list[DayTask]) -> list[DayTask]:
    """Each behind what it waits for; those of a circle are left out, and what waits for them with them."""
    known = {task.task: task for task in tasks}
    left = {task.task: set(task.after) for task in tasks}
    order: list[DayTask] = []
    while ready := [name for name, after in left.items() if not after]:
        for name in ready:
            order.append(known[name])
            del left[name]
        for after in left.values():
            after -= set(ready)
    return order


def _piece(task: DayTask, now: int, hands: tuple[tuple[int, int], ...], numbers: dict[str, int]) -> Piece:
    work, wait = math.ceil(task.hands_min * 60), math.ceil(task.then_wait_min * 60)
    needs = work + wait if task.attended else work
    open_ended = work == 0 and not task.attended
    windows: tuple[tuple[int, int], ...]
    windows = (
        ((now, now),)
        if task.begun
        else ((now, _LATEST),)
        if open_ended
        else tuple((a, b - needs) for a, b in hands if b - needs >= a)
    )
    return Piece(
        name=task.task, hands=work, wait=wait, after=tuple(numbers[name] for name in task.after), channel=task.channel,
        attended=task.attended, due=None if task.due_s is None else math.floor(task.due_s),
        weight=round(task.weight * PER_WEIGHT), windows=windows, begun=task.begun,
    )  # fmt: skip


# Later than any day that is planned.
_LATEST = 10**13


def _nowhere(task: DayTask, piece: Piece | None, hands: tuple[tuple[int, int], ...]) -> str | None:
    if piece is None or piece.windows:
        return None
    if not hands:
        return words.NOBODY_THERE
    fits = any(b - a >= piece.hands for a, b in hands)
    return (
        words.attended_too_long(task.hands_min + task.then_wait_min) if fits else words.hands_too_long(task.hands_min)
    )


def bound_of(frame: Frame) -> int:
    """What no plan of all pieces could end before: by what waits for what, by each channel, and by the hands there are."""
    early: list[int] = []
    for piece in frame.pieces:
        ready = max((early[k] for k in piece.after), default=frame.now)
        begins = next((max(a, ready) for a, b in piece.windows if b >= ready), ready)
        early.append(begins + piece.lasts)
    bound = max(early, default=frame.now)
    for channel in {p.channel for p in frame.pieces if p.channel is not None}:
        own = [(early[k] - p.wait, p.wait) for k, p in enumerate(frame.pieces) if p.channel == channel]
        bound = max(bound, min(a for a, _ in own) + sum(wait for _, wait in own))
    work, least = sum(p.hands for p in frame.pieces), min((p.wait for p in frame.pieces if p.hands), default=0)
    for a, b in _apart(frame.hands):
        if work <= 0:
            break
        took = min(work, (b - a) * frame.people)
        work -= took
        if work == 0:
            bound = max(bound, a + math.ceil(took / frame.people) + least)
    return bound


def _apart(hands: tuple[tuple[int, int], ...]) -> list[tuple[int, int]]:
    """Stretches without their overlap: in it there are not twice as many people."""
    found: list[tuple[int, int]] = []
    for a, b in hands:
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], b))
        else:
            found.append((a, b))
    return found

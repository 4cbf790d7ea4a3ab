"""A workshop of its own for judging promises: packs come, hands work in their own way and are interrupted, repairs fail, parts and customers keep it
waiting. Nothing of how it goes is taken from the program; the program sees of it what a shop would have on record.
"""

import random
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

MONDAY = datetime(2026, 1, 5, tzinfo=UTC)
# Mean minutes of hands of this shop's steps: its own, not the table's.
HANDS = {
    "screen": 3,
    "read": 12,
    "judge": 14,
    "plan": 7,
    "repair": 38,
    "charge": 5,
    "end_charge": 3,
    "prove": 10,
    "hand_over": 8,
}
AFTER = {"repair": "cure", "charge": "charge", "end_charge": "rest"}


@dataclass
class Case:
    """A pack on the bench: its steps left, when it can be gone on with, and what it waits for."""

    number: int
    came: float
    steps: list[str]
    ready_at: float
    promised: float | None = None
    hold: tuple[str, float] | None = None
    runs: tuple[str, float, float] | None = None
    fails: bool = False
    parts_h: float = 0.0
    answer_h: float = 0.0
    held_h: float = 0.0
    done: float | None = None
    took: dict[str, float] = field(default_factory=dict)


class Workshop:
    """Hours from Monday eight o'clock; one pair of hands, two chargers."""

    def __init__(self, rng: random.Random, a_day: float) -> None:
        self.rng = rng
        # How quick this shop is, of which nobody tells the program.
        self.pace = rng.uniform(0.7, 1.5)
        self.now = 8.0
        self.cases: list[Case] = []
        self.finished: list[Case] = []
        self.free = [0.0, 0.0]
        self.a_day = a_day
        self.next_comes = self.now + rng.expovariate(a_day / 8)

    @staticmethod
    def is_open(at: float) -> bool:
        day, hour = divmod(at, 24)
        return int(day) % 7 < 5 and (8 <= hour < 12 or 13 <= hour < 17)

    @staticmethod
    def at(hours: float) -> datetime:
        return MONDAY + timedelta(hours=hours)

    def windows(self, days: int = 60) -> list[tuple[datetime, datetime]]:
        """When it is open from now on."""
        first = int(self.now // 24)
        found = []
        for day in range(first, first + days):
            if day % 7 < 5:
                for a, b in ((8, 12), (13, 17)):
                    if day * 24 + b > self.now:
                        found.append((self.at(max(day * 24 + a, self.now)), self.at(day * 24 + b)))
        return found

    def _minutes(self, step: str) -> float:
        # A long tail: some packs fight back.
        return self.pace * HANDS[step] * self.rng.gammavariate(2.2, 1 / 2.2)

    def _comes(self) -> Case:
        rng = self.rng
        case = Case(len(self.cases) + len(self.finished) + 1, self.now, ["screen", "read", "judge", "plan", "repair", "charge", "end_charge", "prove", "hand_over"], self.now)  # fmt: skip
        case.fails = rng.random() < 0.1
        if rng.random() < 0.25:
            case.parts_h = rng.uniform(20, 150)
        if rng.random() < 0.3:
            case.answer_h = rng.expovariate(1 / 18)
        self.cases.append(case)
        return case

    def tick(self) -> Case | None:
        """On to the next thing that happens; the pack that came, where one did."""
        if not self.is_open(self.now):
            self.now = float(int(self.now * 4 + 1)) / 4
            return None
        if self.now >= self.next_comes:
            self.next_comes = self.now + self.rng.expovariate(self.a_day / 8)
            return self._comes()
        if self.rng.random() < 0.05:
            # The telephone.
            self.now += self.rng.uniform(0.05, 0.4)
            return None
        able = [
            c for c in self.cases if c.ready_at <= self.now and (c.steps[0] != "charge" or min(self.free) <= self.now)
        ]
        if not able:
            self.now += 0.1
            return None
        # What was promised first; now and then what lies nearest.
        case = (
            self.rng.choice(able)
            if self.rng.random() < 0.15
            else min(able, key=lambda c: (c.promised or c.came + 120, c.number))
        )
        self._do(case)
        return None

    def _do(self, case: Case) -> None:
        step = case.steps.pop(0)
        minutes = self._minutes(step)
        case.took[step] = case.took.get(step, 0.0) + minutes
        left = minutes / 60
        while left > 0:
            if not self.is_open(self.now):
                self.now = float(int(self.now * 4 + 1)) / 4
                continue
            part = min(left, 0.1)
            self.now += part
            left -= part
        case.hold = case.runs = None
        rng = self.rng
        if step == "plan" and (case.answer_h or case.parts_h):
            wait = case.answer_h + case.parts_h
            case.hold = ("parts" if case.parts_h else "customer", self.now)
            case.ready_at, case.held_h = self.now + wait, wait
        elif step == "repair":
            self._runs(case, "cure", rng.choice([0.0, 0.3, 2.0]))
        elif step == "charge":
            lasts = rng.uniform(0.8, 5.0)
            slot = min(range(2), key=self.free.__getitem__)
            self.free[slot] = self.now + lasts
            self._runs(case, "charge", lasts)
        elif step == "end_charge":
            self._runs(case, "rest", rng.uniform(1, 2.5))
        elif step == "prove" and case.fails:
            case.fails = False
            case.steps = ["repair", "charge", "end_charge", "prove", "hand_over"]
        elif step == "hand_over":
            case.done = self.now
            self.cases.remove(case)
            self.finished.append(case)

    def _runs(self, case: Case, what: str, lasts: float) -> None:
        case.runs = (what, self.now, self.now + lasts) if lasts else None
        case.ready_at = self.now + lasts

"""What the rules of a verdict look at, and what each answers."""

from collections.abc import Sequence
from dataclasses import dataclass

from saldatura.battery.cell.curves import is_flat
from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import words_for
from saldatura.battery.reconcile import Finding, Reconciled
from saldatura.battery.string.balance import Balance
from saldatura.battery.string.spread import charge_shown, has_plateau
from saldatura.battery.verdict.types import GroupState, HangingGroup, VerdictKind, VerdictRequest
from saldatura.battery.verdict.words import case as words
from saldatura.battery.verdict.words import stops


@dataclass(frozen=True)
class VerdictCase:
    """Everything the rules look at."""

    request: VerdictRequest
    solved: Reconciled
    window: Window
    groups: list[HangingGroup]
    plumb_v: float | None
    balanced: Balance | None
    policy: Policy

    def having(self, *states: GroupState) -> list[HangingGroup]:
        return [g for g in self.groups if g.state in states]

    def doubts(self, *kinds: str) -> list[Finding]:
        return [f for f in self.solved.findings if f.kind in kinds]

    @property
    def tells(self) -> bool:
        """Whether the voltages tell the charge, so that figures for it may be given."""
        return self.balanced is not None and self.balanced.tells

    @property
    def flat(self) -> bool:
        """Whether the curve is so flat where a group hangs that level voltages say nothing of level charge."""
        at, chemistry = self.plumb_v, self.request.pack.chemistry
        if at is None or not has_plateau(chemistry):
            return False
        if is_flat(chemistry, at):
            return True
        return any(
            charge_shown(chemistry, min(g.volts, at), max(g.volts, at), 2 * (g.sigma_v or 0.0), self.policy) == "hidden"
            for g in self.groups
            if g.volts is not None and g.state == "level"
        )

    def read_next(self) -> str | None:
        """The next reading as an instruction."""
        point = self.solved.next_reading
        if point is None:
            return None
        where = words.CELLS_OWN_TABS if self.solved.next_place == "tab" else ""
        return f"Read {words_for(point)}{where}."

    def on_tabs(self, groups: Sequence[HangingGroup]) -> str:
        """A group is not condemned by a wire: the reading that rules one out."""
        whose = words.OWN_TWO_TABS if len(groups) == 1 else "their own tabs"
        return words.read_across_once_more(stops.name_groups(groups), whose)


@dataclass(frozen=True)
class Ruling:
    """What a rule concludes. `alone`: nothing else is to be said beside it."""

    kind: VerdictKind
    headline: str
    reasons: list[str]
    settles: str | None
    alone: bool = False

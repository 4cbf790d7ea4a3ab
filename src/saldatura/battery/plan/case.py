"""What a plan starts from: each group as it stands, which are lost, which are to go, and what is believed."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import median

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.cell.resistance import POWER_C, POWER_OHM_AH
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.judge.types import CauseName
from saldatura.battery.limits.acceptance import FAR_ABOVE_OHM, FAR_BELOW, LEAST_HELD
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.running import USEFUL
from saldatura.battery.limits.states import LOST, is_overcharged, rest_state
from saldatura.battery.plan import tables
from saldatura.battery.plan.ageing import Aged, expected_ah
from saldatura.battery.plan.strings import Given, Group, charged, given
from saldatura.battery.plan.types import PlannedCause, PlannedGroup, PlanRequest, RepairName
from saldatura.battery.plan.words import case as words
from saldatura.battery.plan.words.case import SEEN_WORDS
from saldatura.battery.quantities import Pack, groups_words

OF_CELLS: tuple[CauseName, ...] = ("weak_group", "dead_group", "reversed_group", "leaking_group", "run_flat")
OF_BOARD: tuple[CauseName, ...] = (
    "board_latched", "board_failed", "board_switch", "board_fuse", "board_supply", "board_misfit",
)  # fmt: skip
# A group is to go where so much of the belief is in its cells.
TO_GO = 0.25
# What a group holds that is believed weak, or dead, and was not measured.
WEAK_SHARE, DEAD_SHARE, WORN_SHARE = 0.6, 0.05, 0.5
# What a sound group may lose by itself, mA for an Ah and at least.
LEAK_MA_AH, LEAK_MA = 0.1, 0.2
WORKED_HARD = ("power_tool", "drone", "garden")
# A pack that ages so much slower or faster than usual is as likely a slip of its age; what a fit leaves in doubt.
LEAST_FIT, MOST_FIT, FIT_DOUBT = 0.4, 2.5, 1.3
UNTOLD_YEARS, UNTOLD_C, LEAST_C = 3.0, 0.5, 1 / 400


@dataclass(frozen=True)
class Known:
    """A group as it stands; `lost`: why its cells are never used again; `unfit`: why levelling it mends nothing and its cells are not kept."""

    number: int
    capacity_ah: float
    resistance_ohm: float
    soc: float
    measured: bool
    lost: str | None
    unfit: str | None = None

    @property
    def of_string(self) -> Group:
        return Group(self.capacity_ah, self.resistance_ohm, self.soc)


@dataclass(frozen=True)
class PlanCase:
    """A request with what follows from it before any repair."""

    request: PlanRequest
    policy: Policy

    @cached_property
    def pack(self) -> Pack:
        p = self.request.pack
        return Pack(chemistry=p.chemistry, series=p.series, parallel=p.parallel, rated_ah=p.rated_ah, strings=p.strings)

    @property
    def window(self) -> Window:
        return self.policy.window(self.request.pack.chemistry)

    @property
    def lithium(self) -> bool:
        return self.window.family == "lithium"

    @property
    def age(self) -> float:
        years = self.request.age_years if self.request.age_years is not None else self.request.pack.age_years
        return UNTOLD_YEARS if years is None else years

    @property
    def age_told(self) -> bool:
        return self.request.age_years is not None or self.request.pack.age_years is not None

    @property
    def cycles(self) -> float:
        a_year = self.request.need.cycles_a_year
        return tables.cycles_a_year(self.request.pack.kind) if a_year is None else a_year

    @cached_property
    def ageing(self) -> tables.Ageing:
        """How cells age in this use: the chemistry's range, narrowed to what this pack's own measured groups and age say."""
        usual = tables.ageing(self.request.pack.chemistry)
        sound = [
            g.capacity_ah for g in self.request.groups
            if g.capacity_ah is not None and not g.seen and self.in_cells_of(g.group, *OF_CELLS) < TO_GO
        ]  # fmt: skip
        if not sound or not self.age_told or self.age < 1:
            return usual
        lost = 1 - median(sound) / self.pack.rated_ah
        a, b = sum(usual.a) / 2, sum(usual.b) / 2
        fit = lost / (a * math.sqrt(self.age) + b * self.cycles * self.age)
        fit = min(max(fit, LEAST_FIT), MOST_FIT)
        return tables.Ageing((a * fit / FIT_DOUBT, a * fit * FIT_DOUBT), (b * fit / FIT_DOUBT, b * fit * FIT_DOUBT))

    @property
    def load_a(self) -> float:
        amps = self.request.need.load_a or self.request.pack.load_a or UNTOLD_C * self.pack.whole_ah
        # Less empties it no further, and takes longer than anybody looks.
        return max(amps, LEAST_C * self.pack.whole_ah)

    def new_ohm(self, capacity_ah: float) -> float:
        """10 s ohm of a new group of that size: cells for high currents where the kind of pack is worked hard, or draws so much."""
        pack = self.request.pack
        if pack.kind in WORKED_HARD or (pack.load_a or 0.0) >= POWER_C * pack.whole_ah:
            return POWER_OHM_AH[pack.chemistry] / capacity_ah
        return self.window.resistance_ohm_ah.usual / capacity_ah

    @property
    def least_ah(self) -> float:
        """What a group must hold for its pack to be of use, Ah: of strings side by side each its share of what is wanted."""
        wanted = self.request.need.wanted_ah
        return wanted / self.pack.strings if wanted else USEFUL * self.pack.rated_ah

    def chance_of(self, *causes: CauseName) -> float:
        return sum(c.probability for c in self.request.causes if c.cause in causes)

    def in_cells_of(self, group: int, *causes: CauseName) -> float:
        return sum(c.probability for c in self.request.causes if c.cause in causes and group in c.at.groups)

    def chance(self, repair: RepairName, groups: tuple[int, ...] | None = None) -> float:
        """The chance that a repair, done to `groups`, is the end of the matter; what nothing is known of only a whole pack mends."""
        total, rest = 0.0, 1.0
        for c in self.request.causes:
            total += c.probability * self.mends(repair, c, groups)
            rest -= c.probability
        return min(total + max(rest, 0.0) * tables.mends(repair, "*", None), 1.0)

    def mends(self, repair: RepairName, c: PlannedCause, groups: tuple[int, ...] | None) -> float:
        """The chance that a repair, done to `groups`, mends a cause. A part of the board that was seen is found."""
        applies = groups is None or not c.at.groups or set(c.at.groups) <= set(groups)
        mode: str | None = "found" if repair == "repair_board" and self.request.found_part else c.at.mode
        if c.cause == "bad_joint" and self._torn & set(c.at.groups):
            # The joint that is gone is the cell's own tab: only other cells, or one fewer, mend it.
            mode = "torn"
        return tables.mends(repair, c.cause, mode) * applies

    @cached_property
    def _torn(self) -> set[int]:
        """Groups of which a pouch's tab is torn off."""
        return {g.group for g in self.request.groups if "torn_tab" in g.seen}

    def chance_of_both(self, repairs: Sequence[tuple[RepairName, tuple[int, ...] | None]]) -> float:
        """The chance that repairs done in one opening are the end of the matter: each cause by the one that mends it best."""
        return min(sum(c.probability * max(self.mends(r, c, g) for r, g in repairs) for c in self.request.causes), 1.0)

    @cached_property
    def groups(self) -> tuple[Known, ...]:
        """Every group as it stands, in order."""
        planned_by_group = {g.group: g for g in self.request.groups}
        lost = {k: self._lost(k, planned_by_group.get(k)) for k in range(1, self.pack.series + 1)}
        usual = self._usual_ah(planned_by_group, lost)
        socs = {
            k: middle_curve(self.pack.chemistry).soc_at(g.rest_v)
            for k, g in planned_by_group.items()
            if g.rest_v is not None and self.lithium
        }
        # Groups whose rest voltage nobody tells hang with the others.
        soc = median(socs.values()) if socs else 1.0
        found = []
        for k in lost:
            planned = planned_by_group.get(k, PlannedGroup(group=k))
            holds = (
                self._unmeasured(k, usual)
                if planned.capacity_ah is None
                else max(planned.capacity_ah, LEAST_HELD * self.pack.rated_ah)
            )
            ohm = planned.resistance_ohm or self._aged_ohm(holds)
            unfit = lost[k] or self._unfit(planned, planned_by_group)
            found.append(
                Known(k, holds, ohm, min(socs.get(k, soc), 1.0), planned.capacity_ah is not None, lost[k], unfit)
            )
        return tuple(found)

    def _aged_ohm(self, holds_ah: float) -> float:
        """Of a group that was not measured: a new one's, grown by what it lost of its capacity."""
        rated = self.pack.rated_ah
        return self.new_ohm(rated) * rated / max(holds_ah, 0.05 * rated)

    def _unfit(self, planned: PlannedGroup, planned_by_group: dict[int, PlannedGroup]) -> str | None:
        """Why levelling a group mends nothing: it leaks, stands above full, or hardly passes a current."""
        others = [g for g in planned_by_group.values() if g.group != planned.group]
        leaks = [g.leak_ma for g in others if g.leak_ma is not None]
        most = max(LEAK_MA_AH * self.pack.rated_ah, LEAK_MA)
        if planned.leak_ma is not None and planned.leak_ma - (median(leaks) if leaks else 0.0) > most:
            return words.group_loses_by_itself(planned.group, planned.leak_ma)
        if self.in_cells_of(planned.group, "leaking_group") >= TO_GO:
            return words.group_is_held(planned.group)
        if planned.rest_v is not None and is_overcharged(self.window, planned.rest_v):
            return words.group_stands_above_full(planned.group, planned.rest_v)
        ohms = [g.resistance_ohm for g in others if g.resistance_ohm is not None]
        usual = median(ohms) if ohms else WINDOWS[self.pack.chemistry].resistance_ohm_ah.high / self.pack.rated_ah
        if planned.resistance_ohm is not None and planned.resistance_ohm > FAR_ABOVE_OHM * usual:
            return words.group_has_times(planned.group, planned.resistance_ohm, usual)
        return None

    @property
    def unfit(self) -> str | None:
        """Why levelling alone mends nothing, for the first group of which that holds."""
        why = next((g.unfit for g in self.groups if g.unfit and not g.lost), None)
        return None if why is None else f"{why[0].upper()}{why[1:]}."

    def _lost(self, group: int, planned: PlannedGroup | None) -> str | None:
        if (
            planned is not None
            and planned.capacity_ah is not None
            and planned.capacity_ah <= LEAST_HELD * self.pack.rated_ah
        ):
            return words.group_holds_nothing(group)
        if planned is not None and planned.seen:
            return words.group_is(group, SEEN_WORDS[planned.seen[0]])
        if planned is not None and planned.rest_v is not None:
            code = rest_state(self.window, planned.rest_v).code
            if code == "reversed":
                return words.group_rests_at_reversed(group, planned.rest_v)
            if self.lithium and code in LOST:
                return words.group_rests_at_under(group, planned.rest_v, self.window.rest_floor_v)
        for cause, line in (("reversed_group", "reversed"), ("dead_group", "dead")):
            if self.in_cells_of(group, cause) >= 0.5:  # type: ignore[arg-type]
                return words.group_is_held_2(group, line)
        return None

    def _usual_ah(self, planned_by_group: dict[int, PlannedGroup], lost: dict[int, str | None]) -> float:
        """What a group holds that was not measured and is not suspected: as its measured siblings, else by its age."""
        sound = [
            g.capacity_ah for k, g in planned_by_group.items()
            if g.capacity_ah is not None and lost[k] is None and self.in_cells_of(k, *OF_CELLS) < TO_GO
        ]  # fmt: skip
        sound = sound or [
            g.capacity_ah for k, g in planned_by_group.items() if g.capacity_ah is not None and lost[k] is None
        ]
        if sound:
            # The median, so that one low group among the measured stands for itself alone; and never better than its age lets any be, for
            # those that were measured may be the new ones.
            ageing = tables.ageing(self.request.pack.chemistry)
            best = 1 - ageing.a[0] * math.sqrt(self.age) - ageing.b[0] * self.cycles * self.age
            return min(median(sound), max(best, WORN_SHARE) * self.pack.rated_ah) if self.age_told else median(sound)
        if self.request.pack_capacity_ah is not None:
            # The weakest group ended that discharge; where all are worn alike it speaks for all.
            return self.request.pack_capacity_ah / self.pack.strings
        expected = expected_ah(self.pack.rated_ah, self.age, self.ageing, self.cycles)
        return min(expected, WORN_SHARE * self.pack.rated_ah) if self.chance_of("worn") >= 0.5 else expected

    def _unmeasured(self, group: int, usual: float) -> float:
        if self.in_cells_of(group, "dead_group", "reversed_group") >= 0.5:
            return DEAD_SHARE * self.pack.rated_ah
        return usual * (WEAK_SHARE if self.in_cells_of(group, "weak_group") >= 0.5 else 1.0)

    @cached_property
    def to_go(self) -> tuple[int, ...]:
        """Groups whose cells are to go: lost, believed at fault, or far below their siblings."""
        typical = median(g.capacity_ah for g in self.groups)
        return tuple(
            g.number
            for g in self.groups
            if g.lost
            or (g.unfit is not None and not self._only_high(g))
            or self.in_cells_of(g.number, *OF_CELLS) >= TO_GO
            or (g.measured and g.capacity_ah < FAR_BELOW * typical)
        )

    def _only_high(self, g: Known) -> bool:
        """Whether all that stands against a group is that it was charged too far: let down, it may yet be sound."""
        entered = next((planned for planned in self.request.groups if planned.group == g.number), None)
        return entered is not None and entered.rest_v is not None and is_overcharged(self.window, entered.rest_v)

    @property
    def lost(self) -> str | None:
        """Why no repair may keep all the cells."""
        why = [g.lost for g in self.groups if g.lost]
        if not why:
            return None
        said = (
            why[0]
            if len(why) == 1
            else words.lost_groups_why(groups_words([g.number for g in self.groups if g.lost]).lower(), why[0])
        )
        return words.such_cells_are_replaced(said[0], said[1:])

    def aged(self, group: Known) -> Aged:
        return Aged(group.capacity_ah, self.pack.rated_ah, self.age, group.measured)

    def given(self, groups: list[Group], cutoff_v: float | None = None) -> Given:
        """What a string of these groups gives at the load, the charger having stopped at its first full group."""
        return given(
            self.pack,
            charged(groups),
            self.load_a,
            cutoff_v or self.request.need.cutoff_v or self.request.device_cutoff_v,
        )

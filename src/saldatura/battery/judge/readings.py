"""The measured evidence sorted by what it is of: single groups at pins and on tabs, sums of groups, and the terminals."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise, product

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.judge.measured import (
    Acir,
    CapacityTest,
    DirectVolts,
    GroupVolts,
    Leak,
    PathVolts,
    Resistance,
    RestFall,
    SensorOhm,
    SpanVolts,
    TapVolts,
    TerminalVolts,
)
from saldatura.battery.judge.types import Evidence, JudgedPack
from saldatura.battery.judge.words import readings as words
from saldatura.battery.measures.evidence import Action, At, GaugeShows, RailVolts, Seen, Temperature
from saldatura.battery.reconcile.words import taps_of_two_strings

# What a reading may be off beside its digits: contact, and the part of the meter's error that groups do not share.
CONTACT_V, SHARE = 0.003, 0.0008
NOT_RESTED_V = 0.006
VoltsRead = GroupVolts | DirectVolts | TapVolts | SpanVolts | TerminalVolts | PathVolts


@dataclass(frozen=True)
class Volts:
    """Volts of a group or of a sum of groups, of strings side by side as if they were one chain, with their standard uncertainty; `amps` charging positive, 0 at rest."""

    volts: float
    sigma_v: float
    amps: float = 0.0
    groups: tuple[int, ...] = ()


@dataclass
class Sorted:
    """All measured evidence by place."""

    pins: dict[int, list[Volts]] = field(default_factory=lambda: defaultdict(list))
    tabs: dict[int, list[Volts]] = field(default_factory=lambda: defaultdict(list))
    sums: list[Volts] = field(default_factory=list)
    terminals: list[Volts] = field(default_factory=list)
    figures: dict[int, list[Resistance | Acir | CapacityTest | Leak | RestFall]] = field(
        default_factory=lambda: defaultdict(list)
    )
    whole: list[CapacityTest] = field(default_factory=list)
    sensors: list[SensorOhm] = field(default_factory=list)
    path: list[PathVolts] = field(default_factory=list)
    rails: list[RailVolts] = field(default_factory=list)
    gauges: list[GaugeShows] = field(default_factory=list)
    temperatures: list[Temperature] = field(default_factory=list)
    # Readings through pins that came as differences of taps: there the sum over a loose wire holds exactly.
    by_taps: bool = False

    @property
    def read_groups(self) -> set[int]:
        """Groups read at rest by themselves, wherever."""
        return {
            g for read_at in (self.pins, self.tabs) for g, read in read_at.items() if any(r.amps == 0 for r in read)
        }

    def string_v(self, series: int) -> float | None:
        """The sum of the groups at rest, where each was read."""
        read = self.read_groups
        if len(read) < series:
            return None
        each = (next(r for r in (*self.tabs.get(g, ()), *self.pins.get(g, ())) if r.amps == 0) for g in read)
        return float(sum(r.volts for r in each))


def sort(pack: JudgedPack, evidence: Sequence[Evidence]) -> Sorted:
    """The measured evidence by place. Raises Impossible for a group, tap or span that the pack does not have."""
    found, taps = Sorted(), list[tuple[int, TapVolts]]()
    step = _step([e.volts for e in evidence if isinstance(e, GroupVolts | DirectVolts | TapVolts)])
    for i, e in enumerate(evidence):
        _there(pack, i, e)
        match e:
            case GroupVolts():
                found.pins[e.group].append(_volts(pack, e, step, (e.group,)))
            case DirectVolts():
                found.tabs[e.group].append(_volts(pack, e, step, (e.group,)))
            case TapVolts():
                taps.append((i, e))
            case SpanVolts():
                groups = tuple(range(e.from_tap + 1, e.to_tap + 1))
                read = _volts(pack, e, step, groups)
                if len(groups) == 1:
                    found.pins[groups[0]].append(read)
                else:
                    found.sums.append(read)
            case TerminalVolts():
                # The chain of all groups reads at its ends what each string does, as often as there are strings.
                read = _volts(pack, e, step, ())
                found.terminals.append(Volts(read.volts * pack.strings, read.sigma_v * pack.strings, read.amps))
            case Resistance() | Acir() | Leak() | RestFall():
                found.figures[e.group].append(e)
            case CapacityTest():
                if e.group is not None:
                    found.figures[e.group].append(e)
                else:
                    found.whole.append(e.model_copy(update={"ah": e.ah / pack.strings}))
            case SensorOhm():
                found.sensors.append(e)
            case PathVolts():
                found.path.append(e)
            case RailVolts():
                found.rails.append(e)
            case GaugeShows():
                found.gauges.append(e)
            case Temperature():
                found.temperatures.append(e)
    _between_taps(pack, taps, step, found)
    return found


def _there(pack: JudgedPack, i: int, e: Evidence) -> None:
    """Raises Impossible for evidence on a part that the pack does not have."""
    where = At()
    if hasattr(e, "group") and e.group is not None:
        where = At(groups=[e.group])
    elif isinstance(e, TapVolts):
        where = At(taps=[e.tap])
    elif isinstance(e, SpanVolts):
        where = At(taps=[e.from_tap, e.to_tap])
        if e.from_tap >= e.to_tap:
            raise Impossible(f"evidence.{i}.to_tap", "lower_tap_first", words.NAME_LOWER_TAP)
        if e.to_tap <= pack.series and pack.string_of(e.from_tap + 1) != pack.string_of(e.to_tap):
            raise Impossible(f"evidence.{i}.to_tap", "two_strings", taps_of_two_strings(e.from_tap, e.to_tap))
    elif isinstance(e, Seen | Action):
        where = e.at
    if isinstance(e, VoltsRead):
        _can_be(pack, i, e)
    for group in where.groups:
        if group > pack.series:
            raise Impossible(f"evidence.{i}.group", "no_such_group", words.group_does_not_exist(group, pack.series))
    for tap in where.taps:
        if tap > pack.series:
            raise Impossible(f"evidence.{i}.tap", "no_such_tap", words.tap_does_not_exist(tap, pack.series))


def most_v(pack: JudgedPack, e: VoltsRead) -> float:
    """The most that the cells between the probes can show, whatever is wrong with them."""
    return (1 if isinstance(e, DirectVolts) else pack.in_string) * WINDOWS[pack.chemistry].most_v * 1.05


def _can_be(pack: JudgedPack, i: int, e: VoltsRead) -> None:
    most = most_v(pack, e)
    if abs(e.volts) > most:
        cells = words.ONE_OF_THESE_CELLS if isinstance(e, DirectVolts) else words.these_cells_show(pack.in_string)
        raise Impossible(f"evidence.{i}.volts", "volts_impossible", words.cannot_be_at_most(e.volts, cells, most))


def _volts(
    pack: JudgedPack,
    e: GroupVolts | DirectVolts | TapVolts | SpanVolts | TerminalVolts,
    step: float,
    groups: tuple[int, ...],
) -> Volts:
    amps = 0.0
    if e.condition != "rest":
        usual = pack.load_a or pack.whole_ah
        amps = (
            abs(e.current_a if e.current_a is not None else usual) / pack.strings * (-1 if e.condition == "load" else 1)
        )
    sigma = e.sigma_v or max(CONTACT_V, SHARE * abs(e.volts), step / 3**0.5)
    if e.condition == "rest" and (e.rested_h is None or e.rested_h < 1):
        sigma = (sigma**2 + NOT_RESTED_V**2) ** 0.5
    return Volts(e.volts, sigma, amps, groups)


def _step(volts: Sequence[float]) -> float:
    """The last digit that the readings were written with: the finest among them."""
    return min((10.0 ** -min(len(f"{v:.4f}".rstrip("0").partition(".")[2]), 3) for v in volts), default=0.01)


def _between_taps(pack: JudgedPack, taps: list[tuple[int, TapVolts]], step: float, found: Sorted) -> None:
    """Differences of neighbouring taps that were read, as readings of the groups between."""
    lowest = range(0, pack.series, pack.in_string)
    for base, condition in product(lowest, ("rest", "load", "charging")):
        at_tap = {base: Volts(0.0, 0.0)} | {
            e.tap: _volts(pack, e, step, ())
            for _, e in taps
            if e.condition == condition and base < e.tap <= base + pack.in_string
        }
        if len(at_tap) < 2:
            continue
        found.by_taps = True
        ordered = sorted(at_tap)
        for low, high in pairwise(ordered):
            a, b = at_tap[low], at_tap[high]
            groups = tuple(range(low + 1, high + 1))
            # Both stand on one gain of one range, so only the digits and the contact count twice.
            sigma = max(CONTACT_V * 1.5, step * 0.8, SHARE * abs(b.volts - a.volts), 0.0003 * abs(b.volts))
            read = Volts(round(b.volts - a.volts, 6), sigma, b.amps, groups)
            if len(groups) == 1:
                found.pins[low + 1].append(read)
            else:
                found.sums.append(read)

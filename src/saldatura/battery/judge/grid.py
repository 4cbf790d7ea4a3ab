"""What the groups of a string share and nobody knows: the siblings' state of charge, and how far their cells have aged."""

from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array, Curve, middle_curve
from saldatura.battery.cell.resistance import SLOW_PER_FAST, SLOW_TAU_S, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge.measured import Acir, CapacityTest, Leak, Resistance, RestFall
from saldatura.battery.judge.readings import Sorted, Volts
from saldatura.battery.judge.siblings import STATES, Siblings, common_loss_a_day, siblings
from saldatura.battery.judge.types import JudgedPack
from saldatura.battery.pack.build import OHMIC_SHARE

# Sound siblings differ by so much of their charge; so do resistances and capacities, as shares.
APART_SOC, APART_OHM, APART_AH = 0.012, 0.10, 0.04
# One measured value in so many is a slip, and then anything.
SLIP, SLIP_PER_V, SLIP_PER_LOG = 0.004, 1 / 6, 0.2
MOST_CLUSTERS = 10
Figure = Resistance | Acir | CapacityTest | Leak | RestFall
# What a sound group may lose beside its siblings: mA for an Ah at least, and volts at once and an hour; beyond it the measured leak
# speaks, and no further than a slip of the hand allows.
QUIET_MA_AH, QUIET_MA, QUIET_V, QUIET_V_H = 0.10, 0.2, 0.004, 0.00004
MOST_TOLD, LEAST_TOLD = 10.5, -5.0
# So often a leaking group was charged up to its siblings not long before it is read.
CHARGED_SINCE = 0.35
# What drift alone takes from a group beside its siblings, shares of the charge: at once and a year, and how much of it a board that levels
# leaves where it levels, does not, or nobody knows; what lies further behind speaks for a leak, by so much for each time more, and no further than this.
DRIFT, DRIFT_A_YEAR, BEHIND_FROM, BEHIND_TELLS, MOST_BEHIND = 0.08, 0.10, 1.5, 0.4, 4.5
DRIFTS = {True: 0.35, False: 1.0, None: 2.5}
# Cells of one size come stronger and weaker; tables of makers span a factor of four or so.
R_SPREAD = 0.38
QUANTILES = (-1.28, -0.39, 0.39, 1.28)


@dataclass(frozen=True)
class Wear:
    """Ages of a string: resistance as a multiple of the usual, capacity as a share of the rated, (W,); chance of each where the
    pack is not worn, and where it is."""

    resistance: Array
    capacity: Array
    sound: Array
    worn: Array


def _wear() -> Wear:
    z = np.array(QUANTILES)
    r = np.concatenate([np.exp(R_SPREAD * z + 0.1), np.exp(np.log(2.5) + 0.42 * z)])
    capacity = np.concatenate([np.clip(0.90 - 0.06 * z, 0.75, 1.0), np.clip(0.42 - 0.22 * z, 0.12, 0.7)])
    half = np.ones(len(z)) / len(z)
    none = np.zeros(len(z))
    return Wear(r, capacity, np.concatenate([half, none]), np.concatenate([none, half]))


WEAR = _wear()


@dataclass(frozen=True)
class Grid:
    """The nodes, N states of charge by W ages, and the log likelihood at each of all measured of each group that has any:
    `sound[g]` (N, W) and `gone[g][state]` (N, W); `tabs_only[g]` the same of what its tabs alone read, where they were; `by_age` (W,) of
    where the resistances of all lie; `quiet[g]` (N, 1) of what was measured of a leak, were there none. `node_p` sums to 1."""

    soc: Array
    node_p: Array
    volts: Array
    slope: Array
    sound: dict[int, Array]
    gone: dict[int, dict[str, Array]]
    tabs_only: dict[int, tuple[Array, dict[str, Array]]]
    by_age: Array
    quiet: dict[int, Array]


def nodes(pack: JudgedPack, found: Sorted) -> Array:
    """States of charge worth looking at: evenly, and closely where groups were read."""
    curve = middle_curve(pack.chemistry)
    read = [r for read_at in (found.pins, found.tabs) for rs in read_at.values() for r in rs if r.amps == 0]
    read += [Volts(r.volts / len(r.groups), r.sigma_v, 0.0, r.groups) for r in found.sums if r.amps == 0]
    read += [Volts(r.volts / pack.series, 0.02, 0.0, ()) for r in found.terminals if r.amps == 0]
    near: dict[int, Volts] = {}
    for r in read:
        if r.volts > 0:
            near.setdefault(round(r.volts / max(2 * r.sigma_v, 0.012)), r)
    kept = [near[k] for k in sorted(near)]
    even = np.linspace(0.01, 1.0, 22 if not kept else 14)
    if len(kept) > MOST_CLUSTERS:
        kept = [kept[round(i * (len(kept) - 1) / (MOST_CLUSTERS - 1))] for i in range(MOST_CLUSTERS)]
    close = [r.volts + d * max(r.sigma_v, 0.008) for r in kept for d in (-1.6, -0.6, 0.6, 1.6)]
    at = curve.soc_middle(np.array(close)) if close else np.zeros(0)
    return np.unique(np.clip(np.concatenate([even, at]), 0.004, 1.0).round(4))


def grid(pack: JudgedPack, found: Sorted) -> Grid:
    """Likelihoods of everything measured of single groups."""
    soc = nodes(pack, found)
    edges = np.concatenate(([0.0], (soc[1:] + soc[:-1]) / 2, [1.0]))
    node_p = np.diff(edges)
    curve = middle_curve(pack.chemistry)
    volts = curve.volts(soc)
    slope = (curve.volts(np.minimum(soc + 0.01, 1.0)) - curve.volts(np.maximum(soc - 0.01, 0.0))) / 0.02
    groups = sorted({*found.pins, *found.tabs, *found.figures})
    bank = siblings(pack.chemistry)
    laid = {state: (b, np.log(b.weights(soc)), *b.rest_volts(pack.chemistry, soc)) for state, b in bank.items()}
    shape = (len(soc), len(WEAR.resistance))
    usual = pack.group_ohm or usual_resistance_ohm(pack.chemistry, pack.rated_ah)
    sound, gone, tabs_only, quiet = {}, {}, {}, {}
    sags: dict[tuple[str, float], tuple[Array, Array]] = {}
    ohms = Ohms.from_figures(found.figures)
    for g in groups:
        pins, tabs, figures = found.pins.get(g, []), found.tabs.get(g, []), found.figures.get(g, [])
        sound[g] = _sound(pack, usual, pins + tabs, figures, ohms, volts, slope, shape)
        gone[g] = {s: _state(pack, usual, pins + tabs, figures, ohms, slope, s, *laid[s], sags) for s in STATES}
        losses = [_loss(pack, e, slope) for e in figures if isinstance(e, Leak | RestFall)]
        if losses:
            quiet[g] = np.asarray(sum(_quiet(z) for z in losses))
            shown = np.asarray(sum(_shown(z) for z in losses))
            charged = sound[g] - quiet[g] + shown
            gone[g]["leaking"] = np.logaddexp(
                np.log1p(-CHARGED_SINCE) + gone[g]["leaking"], np.log(CHARGED_SINCE) + charged
            )
        # Odds of a leak over drift: half of it taken from the one and half given to the other, so that neither is called a slip.
        behind = _behind(pack, pins + tabs, soc, curve)[:, None] / 2
        gone[g]["low"], gone[g]["leaking"] = gone[g]["low"] - behind, gone[g]["leaking"] + behind
        if tabs:
            beside = {s: _state(pack, usual, tabs, figures, ohms, slope, s, *laid[s], sags) for s in STATES}
            tabs_only[g] = (_sound(pack, usual, tabs, figures, ohms, volts, slope, shape), beside)
    return Grid(soc, node_p, volts, slope, sound, gone, tabs_only, ohms.by_age(usual), quiet)


def usual_leak_ma(rated_ah: float) -> float:
    """What a sound group of that capacity may leak, mA."""
    return max(QUIET_MA_AH * rated_ah, QUIET_MA)


def _loss(pack: JudgedPack, e: Leak | RestFall, slope: Array) -> Array:
    """What was measured of a leak, in multiples of what a sound group may show, (N, 1)."""
    if isinstance(e, Leak):
        return np.full((len(slope), 1), e.ma / (pack.quiet_ma or usual_leak_ma(pack.rated_ah)))
    # A pack of one group has no siblings to fall beside it.
    own = common_loss_a_day(WINDOWS[pack.chemistry].family) * e.hours / 24 * slope if pack.series == 1 else 0.0 * slope
    return np.asarray((e.mv / 1000 - own) / (QUIET_V + QUIET_V_H * e.hours))[:, None]


def _quiet(z: Array) -> Array:
    """Log likelihood of such a loss where nothing leaks: it falls, and no further than a slip allows."""
    return np.asarray(-np.minimum(0.5 * z * z, MOST_TOLD))


def _shown(z: Array) -> Array:
    """The same where the group leaks: the more is lost the likelier, whatever it stands at now."""
    return np.asarray(np.maximum(-np.log1p(np.exp(-2.0 * (z - 1.5))), LEAST_TOLD))


def _behind(pack: JudgedPack, read: list[Volts], soc: Array, curve: Curve) -> Array:
    """How far drift alone does not explain that a group lies behind its siblings, for its age, in nats, (N,)."""
    rests = [r.volts for r in read if r.amps == 0]
    if pack.age_years is None or not rests or WINDOWS[pack.chemistry].family == "nickel":
        return np.zeros(len(soc))
    usual = (DRIFT + DRIFT_A_YEAR * pack.age_years) * DRIFTS[pack.board_levels]
    apart = soc - curve.soc_at(rests[-1])
    return np.asarray(np.clip(BEHIND_TELLS * (apart / usual - BEHIND_FROM), 0.0, MOST_BEHIND))


def under_floor(pack: JudgedPack, r: Volts) -> bool:
    """Whether a group rests so low that it is a dead one, however it came there."""
    floor = WINDOWS[pack.chemistry].rest_floor_v
    return r.amps == 0 and floor > 0 and r.volts < floor - 3 * r.sigma_v


def _slip(log_p: Array, density: float) -> Array:
    return np.asarray(np.logaddexp(np.log1p(-SLIP) + log_p, np.log(SLIP * density)))


def density(x: float, mean: Array, sigma: Array) -> Array:
    """Density of a value in volts that is normal but for a slip now and then."""
    z = (x - mean) / sigma
    return np.asarray(np.exp(-0.5 * z * z) * (0.39894228 * (1 - SLIP)) / sigma + SLIP * SLIP_PER_V)


def normal(x: float | Array, mean: Array, sigma: float | Array) -> Array:
    """Log density of a normal."""
    return np.asarray(-0.5 * ((x - mean) / sigma) ** 2 - np.log(sigma) - 0.9189385)


@dataclass(frozen=True)
class Ohms:
    """Where the groups' resistances lie: the middle of those at once and of those after 10 s, where at least three were read."""

    at_once: float | None
    lasting: float | None

    @classmethod
    def from_figures(cls, figures: dict[int, list[Figure]]) -> "Ohms":
        read: dict[bool, list[float]] = {True: [], False: []}
        for group_figures in figures.values():
            for e in group_figures:
                if isinstance(e, Resistance | Acir):
                    ohm, _, at_once = _ohm(e)
                    read[at_once].append(ohm)
        middle = {k: float(np.median(v)) if len(v) >= 3 else None for k, v in read.items()}
        return cls(middle[True], middle[False])

    def log_p(self, e: Resistance | Acir, usual: float, ratio: Array | None) -> Array:
        """Log likelihood of a value where its group has `ratio` of the siblings' resistance, (K,) or, where siblings were not
        read, by age, (W, K); None: sound. What a meter or the instant of reading shifts, it shifts for all siblings alike."""
        own, doubt, at_once = _ohm(e)
        middle = self.at_once if at_once else self.lasting
        if middle is not None:
            mean = np.zeros(1) if ratio is None else np.log(np.maximum(ratio, 0.05))
            # A simulated group whose resistance is another than its siblings' stands for others near it.
            sigma = np.hypot(np.hypot(APART_OHM, 0.06), np.minimum(0.25 * np.abs(mean), 0.2))
            return _slip(normal(np.log(own / middle), mean, sigma), SLIP_PER_LOG)
        age = np.log(usual * WEAR.resistance)
        mean = age if ratio is None else age[:, None] + np.log(np.maximum(ratio, 0.05))
        return _slip(normal(np.log(own), mean, np.hypot(0.2, doubt)), SLIP_PER_LOG)

    def by_age(self, usual: float) -> Array:
        """Log likelihood of where the siblings lie, by age, (W,)."""
        total = np.zeros(len(WEAR.resistance))
        for middle, doubt in ((self.at_once, 0.35), (self.lasting, 0.2)):
            if middle is not None:
                total += normal(np.log(middle), np.log(usual * WEAR.resistance), doubt)
        return total


def _ohm(e: Resistance | Acir) -> tuple[float, float, bool]:
    """The 10 s resistance that a value stands for as a multiple of itself, the doubt of that as a log, and whether it is
    rather of the first instant."""
    if isinstance(e, Acir):
        # At 1 kHz a cell shows a half to three quarters of its 10 s resistance.
        return e.ohm / (OHMIC_SHARE * 0.9), 0.22, True
    if e.after_s <= 1:
        return e.ohm / OHMIC_SHARE, 0.14, True
    slow = SLOW_PER_FAST * (1 - np.exp(-max(e.after_s - 10.0, 0.0) / SLOW_TAU_S))
    return e.ohm / (1 + slow), 0.08, False


def _sound(
    pack: JudgedPack, usual: float, read: list[Volts], figures: list[Figure], ohms: Ohms,
    volts: Array, slope: Array, shape: tuple[int, int],
) -> Array:  # fmt: skip
    total = np.zeros(shape)
    spread = np.hypot(0.003, np.minimum(slope * APART_SOC, 0.15))
    for r in read:
        if under_floor(pack, r):
            total += np.log(SLIP * SLIP_PER_V)
        elif r.amps == 0:
            total += _slip(normal(r.volts, volts, np.hypot(spread, r.sigma_v)), SLIP_PER_V)[:, None]
        else:
            sag = r.amps * usual * WEAR.resistance
            mean, sigma = volts[:, None] + 1.1 * sag, np.hypot(np.hypot(spread, r.sigma_v)[:, None], 0.25 * sag)
            total += _slip(normal(r.volts, mean, sigma), SLIP_PER_V)
    for e in figures:
        match e:
            case Resistance() | Acir():
                total += ohms.log_p(e, usual, None)
            case CapacityTest():
                sigma = np.hypot(APART_AH, 0.08)
                total += _slip(normal(e.ah / pack.rated_ah, WEAR.capacity, sigma), 1.0)
            case Leak() | RestFall():
                total += _quiet(_loss(pack, e, slope))
    return total


def _state(
    pack: JudgedPack, usual: float, read: list[Volts], figures: list[Figure], ohms: Ohms,
    slope: Array, state: str, siblings: Siblings, log_w: Array, volts: Array, spread: Array, own_slope: Array, sags: dict[tuple[str, float], tuple[Array, Array]],
) -> Array:  # fmt: skip
    """Log likelihood (N, W) of a group's evidence were it in a state: over the simulated groups of that state. `sags`: what each
    shows under each current, kept from group to group."""
    charge, scale = np.exp(log_w), 0.0
    age = np.ones((len(WEAR.resistance), len(siblings.r10)))
    loaded, shown = None, np.zeros((len(slope), 1))
    ohm = usual * WEAR.resistance[:, None]
    for r in read:
        if under_floor(pack, r) and not siblings.own_volts:
            scale += np.log(SLIP * SLIP_PER_V)
        elif r.amps == 0:
            sigma = np.hypot(spread, r.sigma_v)
            charge = charge * density(r.volts, volts, sigma)
        else:
            if (state, r.amps) not in sags:
                sag = r.amps * ohm * siblings.r10
                sigma = np.hypot(np.hypot(spread, r.sigma_v)[:, None, :], 0.25 * sag)
                sags[state, r.amps] = (
                    (volts[:, None, :] + 1.1 * sag).astype(np.float32),
                    (1 / sigma).astype(np.float32),
                )
            mean, sharp = sags[state, r.amps]
            one = (np.float32(r.volts) - mean) * sharp
            one = np.exp(np.float32(-0.5) * one * one) * sharp * np.float32(0.39894228 * (1 - SLIP))
            one += np.float32(SLIP * SLIP_PER_V)
            loaded = one if loaded is None else loaded * one
        most = float(charge.max())
        charge, scale = charge / most, scale + np.log(most)
    for e in figures:
        match e:
            case Acir():
                age = age * np.exp(ohms.log_p(e, usual, siblings.r_khz))
            case Resistance():
                age = age * np.exp(ohms.log_p(e, usual, siblings.r0 if _ohm(e)[2] else siblings.r10))
            case CapacityTest():
                share = WEAR.capacity[:, None] * siblings.capacity
                age = age * np.exp(_slip(normal(e.ah / pack.rated_ah, share, 0.09), 1.0))
            case Leak() | RestFall():
                z = _loss(pack, e, slope)
                shown = shown + (_shown(z) if state == "leaking" else _quiet(z))
        most = float(charge.max() * age.max())
        charge, age, scale = charge / charge.max(), age / age.max(), scale + np.log(most)
    whole = charge @ age.T if loaded is None else np.einsum("nk,wk,nwk->nw", charge, age, loaded)
    return np.asarray(np.log(whole + 1e-300) + scale + shown)

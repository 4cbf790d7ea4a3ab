"""What is told, seen and tried, and what the board's own nodes read, as factors over the causes: how likely each makes it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.judge import tables
from saldatura.battery.judge.readings import Sorted
from saldatura.battery.judge.types import Evidence, JudgedPack
from saldatura.battery.judge.words import witness as words
from saldatura.battery.measures.evidence import (
    Action,
    Blink,
    ChargerSays,
    History,
    MovingChanges,
    Reference,
    Registers,
    Seen,
    Swap,
    ToolDoes,
    evidence_words,
)
from saldatura.battery.pack.sensors import Thermistor

# Results of a swap when the reference part itself cannot be trusted, as tables.RESULTS has them.
UNTRUSTED = np.array([0.35, 0.40, 0.10, 0.15])
SENSOR_OFF_K = 6.0
OPEN_SENSOR_OHM, SHORT_SENSOR_OHM = 1.5e6, 25.0
USUAL_SENSORS = (Thermistor(), Thermistor(b_k=3950.0), Thermistor(r25_ohm=100_000, b_k=3950.0), Thermistor(r25_ohm=47_000, b_k=3950.0), Thermistor(r25_ohm=5_000, b_k=3950.0))  # fmt: skip
SENSOR_CLASSES = ("right", "off", "open", "short")
HAS_IT, HAS_NOT = 0.9, 0.15
SUPPLY_LOW_V, WAKE_LOW_V = 1.5, 0.5
# A gate that stands so far from its source turns its switch on; logic-level ones want less than others.
GATE_DRIVEN_V = 2.5
SWITCHES = [tables.NODES.index("charge_switch"), tables.NODES.index("discharge_switch")]
SOH_LOW, MANY_CYCLES, GAUGE_OFF, WARM_K = 0.6, 500, 0.3, 8.0


@dataclass(frozen=True)
class Factor:
    """A piece of evidence and its likelihood under each cause, (C,). `either`: one of two causes is enough to show it."""

    says: str
    likelihood: Array
    either: bool = False
    index: int | None = None


def factors(pack: JudgedPack, evidence: Sequence[Evidence], found: Sorted, soc: float | None) -> list[Factor]:
    """All factors. `soc`: of the string as read, for the gauge. Raises Impossible for what cannot be so."""
    not_contradictory(evidence)
    every: list[Factor] = []
    mech = mechanism_factor(evidence)
    every += [mech] if mech is not None else []
    for i, e in enumerate(evidence):
        match e:
            case Seen():
                every.append(
                    Factor(evidence_words(e), tables.chances_of_told("seen", seen_key(e)), e.what != "nothing", i)
                )
            case History():
                every.append(Factor(evidence_words(e), tables.chances_of_told("history", e.what), True, i))
            case MovingChanges():
                yes = tables.chances_of_told("moving", e.what)
                every.append(Factor(evidence_words(e), yes if e.changes else 1 - yes, e.changes, i))
            case Registers():
                every += registers_factors(e, i)
            case Action():
                likelihoods = tables.tried(e.did)[:, tables.RESULTS.index(e.result)]
                every.append(Factor(evidence_words(e), likelihoods, False, i))
            case Swap():
                every.append(
                    Factor(evidence_words(e), swap(e.put, e.reference)[:, tables.RESULTS.index(e.result)], False, i)
                )
    every += [
        Factor(says, sensor_shares(known)[:, SENSOR_CLASSES.index(sensor_class)])
        for says, known, sensor_class in sensor_reads(found)
    ]
    every += path_factors(pack, found)
    every += gate_factors(pack, found)
    for rail in found.rails:
        if rail.rail == "gate":
            continue
        low = rail.volts < (SUPPLY_LOW_V if rail.rail == "board_supply" else WAKE_LOW_V)
        yes = tables.chances_of_told("rail", f"{rail.rail}_low")
        every.append(Factor(words.reads_rail_volts(rail.rail, rail.volts), yes if low else 1 - yes, low))
    for gauge in found.gauges:
        if soc is not None:
            off = abs(gauge.fraction - soc) > GAUGE_OFF
            yes = tables.chances_of_told("gauge", "off")
            said = words.gauge_shows_where_groups(gauge.fraction, soc)
            every.append(Factor(said, yes if off else 1 - yes, off))
    for t in found.temperatures:
        if t.group is not None and t.c - t.ambient_c > WARM_K:
            said = words.group_is_warmer_than(t.group, t.c, t.ambient_c)
            every.append(Factor(said, tables.chances_of_told("warm", "one_warm"), True))
    return every


def seen_key(seen_: Seen) -> str:
    """What was seen, as the table has it: a part missing or burnt beside a supply of the board is another thing than one elsewhere."""
    return (
        f"{seen_.what}_supply"
        if seen_.at.rail is not None and seen_.what in ("missing_part", "burnt_part")
        else seen_.what
    )


def not_contradictory(evidence: Sequence[Evidence]) -> None:
    """Raises Impossible where charger or tool is said to be normal and not."""
    for cls, field in ((ChargerSays, "says"), (ToolDoes, "does")):
        said = {getattr(e, field) for e in evidence if isinstance(e, cls)}
        if "normal" in said and len(said) > 1:
            what = "charger" if cls is ChargerSays else "tool"
            other = sorted(said - {"normal"})[0].replace("_", " ")
            raise Impossible("evidence", "normal_and_not", words.cannot_be_normal(what, other))


def told_symptoms(evidence: Sequence[Evidence]) -> list[tuple[str, str]]:
    """Charger, tool and lamps as (kind, value), each value once."""
    found: list[tuple[str, str]] = []
    for e in evidence:
        match e:
            case ChargerSays():
                found.append(("charger", e.says))
            case ToolDoes():
                found.append(("tool", e.does))
            case Blink():
                found.append(("blink", e.means))
    return list(dict.fromkeys(found))


def mechanism_shares(evidence: Sequence[Evidence]) -> Array:
    """How likely each mechanism is under each cause together with what charger, tool and lamps show, (C, M), not normalised:
    symptoms with one mechanism behind them count once."""
    _, share = tables.mechanisms()
    joint = share.copy()
    symptoms = told_symptoms(evidence)
    for kind, value in symptoms:
        several = sum(k == kind for k, _ in symptoms)
        shares = tables.symptoms(kind)[:, tables.VALUES[kind].index(value)]
        # Two sayings of one charger are two looks at one thing.
        joint = joint * shares ** (1 / several)
    return joint


def mechanism_factor(evidence: Sequence[Evidence]) -> Factor | None:
    """Charger, tool and lamps as one factor; None where nothing was said of them."""
    words = [evidence_words(e) for e in evidence if isinstance(e, ChargerSays | ToolDoes | Blink)]
    if not words:
        return None
    return Factor(", ".join(dict.fromkeys(words)), mechanism_shares(evidence).sum(axis=1))


def registers_factors(e: Registers, i: int) -> list[Factor]:
    """What a chip's registers say, each by itself."""
    flags = [
        ("permanent_failure", e.permanent_failure, words.PERMANENT_FAILURE_IS_FLAGGED, words.NO_PERMANENT_FAILURE),
        ("charge_switch_off", _not(e.charge_switch), words.CHIP_HOLDS_ITS_CHARGE, words.CHIP_SAYS_ITS_CHARGE),
        ("discharge_switch_off", _not(e.discharge_switch), words.CHIP_HOLDS_ITS_DISCHARGE, words.CHIP_SAYS_ITS_DISCHARGE),
        ("silent_unpowered", _not(e.answers_unpowered), words.CHIP_ANSWERS_ONLY_WHEN, words.CHIP_ANSWERS_BY_ITSELF),
        ("soh_low", None if e.soh is None else e.soh < SOH_LOW, words.CHIP_SAYS_LITTLE_HEALTH, words.CHIP_SAYS),
        ("cycles_many", None if e.cycles is None else e.cycles >= MANY_CYCLES, words.COUNTS_MANY_CYCLES, words.COUNTS_FEW_CYCLES),
    ]  # fmt: skip
    found = []
    for value, flag, yes_words, no_words in flags:
        if flag is not None:
            yes = tables.chances_of_told("registers", value)
            found.append(Factor(yes_words if flag else no_words, yes if flag else 1 - yes, flag, i))
    return found


def _not(flag: bool | None) -> bool | None:
    return None if flag is None else not flag


def trust(reference: Reference) -> float:
    """How far a reference part is to be trusted, 0–1: of the same revision, and lately proved itself."""
    revision = {True: 0.95, None: 0.7, False: 0.25}[reference.same_revision]
    days = reference.proved_days_ago
    fresh = 0.85 if days is None else 1.0 if days <= 60 else 0.9 if days <= 365 else 0.65
    return revision * fresh


def swap(put: str, reference: Reference) -> Array:
    """How likely each result of a swap is under each cause, (C, results), as far as its reference is trusted."""
    t = trust(reference)
    return np.asarray(t * tables.tried(put) + (1 - t) * UNTRUSTED)


def sensor_reads(found: Sorted) -> list[tuple[str, bool, str]]:
    """Each sensor as read: in words, whether its thermistor is known, and its class."""
    reads = []
    for e in found.sensors:
        known = e.r25_ohm is not None
        kinds = (Thermistor(r25_ohm=e.r25_ohm or 1e4, b_k=e.b_k or 3435.0),) if known else USUAL_SENSORS
        sensor_class = (
            "open" if e.ohm > OPEN_SENSOR_OHM
            else "short" if e.ohm < SHORT_SENSOR_OHM
            else "right" if any(abs(k.celsius(e.ohm) - e.ambient_c) <= SENSOR_OFF_K for k in kinds) else "off"
        )  # fmt: skip
        ohm = f"{e.ohm / 1000:.2f} kΩ" if e.ohm >= 1000 else f"{e.ohm:.0f} Ω"
        says = {
            "open": words.sensor_reads_open(e.sensor),
            "short": words.sensor_reads_short(e.sensor, ohm),
            "right": words.sensor_reads_right(e.sensor, ohm, e.ambient_c),
            "off": words.sensor_reads_not_what(e.sensor, ohm, e.ambient_c),
        }[sensor_class]
        reads.append((says, known, sensor_class))
    return reads


def sensor_shares(known: bool) -> Array:
    """How likely each class of a sensor's reading is under each cause, (C, classes)."""
    off = 0.03 if known else 0.12
    share = np.tile([0.985 - off, off, 0.009, 0.006], (len(tables.causes()), 1))
    at = tables.index()
    share[at["sensor_circuit:open"]] = [0.02, 0.03, 0.94, 0.01]
    share[at["sensor_circuit:short"]] = [0.02, 0.05, 0.01, 0.92]
    share[at["sensor_circuit:intermittent"]] = [0.66, 0.22, 0.11, 0.01]
    share[at["board_misfit"]] = [0.82, 0.15, 0.02, 0.01]
    return share


def path_reads(pack: JudgedPack, found: Sorted) -> list[tuple[str, int, str]]:
    """Nodes of the path as read: in words, their place in tables.NODES, and whether they have the string's voltage."""
    string = next((p.volts for p in found.path if p.node == "string"), None)
    if string is None and (chain := found.string_v(pack.series)) is not None:
        string = chain / pack.strings
    window = WINDOWS[pack.chemistry]
    nodes = [(p.node, p.volts, p.node.replace("_", " ")) for p in found.path if p.node != "string"]
    nodes += [("terminal", r.volts / pack.strings, "terminals") for r in found.terminals if r.amps == 0]
    reads = []
    for node, volts, name in nodes:
        whole = string if string is not None and string > 0.5 else None
        share = abs(volts) / (whole if whole is not None else pack.in_string * window.tool_end_v * 0.8)
        shows = "has" if share >= HAS_IT else "none" if share < HAS_NOT else "part"
        beside = words.string_whole(whole) if whole is not None else ""
        reads.append(
            (
                words.behind_name_volts_beside(name, volts, beside)
                if name != "terminals"
                else words.terminals_read(volts, beside),
                tables.NODES.index(node),
                shows,
            )
        )
    return reads


def path_likelihoods(pack: JudgedPack, found: Sorted) -> Array | None:
    """How likely the nodes' readings are with the voltage lost before each place, (places,); None where nothing was read."""
    reads = path_reads(pack, found)
    if not reads:
        return None
    total = np.ones(len(tables.NODES))
    for _, node, shows in reads:
        for place in range(len(tables.NODES)):
            gone = place != 0 and node >= place
            if not gone:
                p = {"has": 0.965, "part": 0.025, "none": 0.01}[shows]
            elif tables.NODES[place] == "charge_switch":
                # Its diode still lets current out: the meter sees the string less half a volt.
                p = {"has": 0.45, "part": 0.25, "none": 0.3}[shows]
            else:
                p = {"has": 0.02, "part": 0.28, "none": 0.7}[shows]
            total[place] *= p
    return total


def lost_at_switch(pack: JudgedPack, found: Sorted) -> bool:
    """Whether the path as read loses its voltage at a switch: a gate tells nothing of a switch that passes."""
    read = path_likelihoods(pack, found)
    return read is not None and float(read[SWITCHES].max()) > 3 * float(np.delete(read, SWITCHES).max())


def gate_factors(pack: JudgedPack, found: Sorted) -> list[Factor]:
    """A switch with the voltage on one side and none on the other, judged by its gate."""
    if not lost_at_switch(pack, found):
        return []
    every = []
    for rail in (r for r in found.rails if r.rail == "gate"):
        driven = abs(rail.volts) >= GATE_DRIVEN_V
        yes = tables.chances_of_told("rail", "gate_driven")
        does = words.DRIVEN_AND_DOES_NOT if driven else words.NOTHING_TELLS
        says = words.switchs_gate_stands(rail.volts, does)
        every.append(Factor(says, yes if driven else 1 - yes, driven))
    return every


def path_factors(pack: JudgedPack, found: Sorted) -> list[Factor]:
    """The power path as read, as one factor."""
    read = path_likelihoods(pack, found)
    if read is None:
        return []
    says = "; ".join(said for said, _, _ in path_reads(pack, found))
    return [Factor(says, tables.lost() @ read, False)]

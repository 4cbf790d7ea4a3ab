"""A job's facts as evidence for the judgement, each piece with the fact it came from."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from saldatura.battery.judge.measured import (
    Acir,
    CapacityTest,
    DirectVolts,
    GroupVolts,
    Resistance,
    SensorOhm,
    SpanVolts,
    TapVolts,
    TerminalVolts,
)
from saldatura.battery.judge.readings import VoltsRead, most_v
from saldatura.battery.judge.types import Evidence, JudgedPack
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import ChargerSays, GaugeShows, Registers, Seen, ToolDoes, evidence_words
from saldatura.battery.measures.evidence import History as Happened
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import GroupPoint, PackPoint, SpanPoint, TapPoint
from saldatura.battery.reconcile.noise import reading_sigma_v
from saldatura.battery.verdict.types import Symptom
from saldatura.job.assessment.again import asked_again
from saldatura.job.assessment.equipped import board_since
from saldatura.job.assessment.groups import Read, charged_since, group_volts, reads_of
from saldatura.job.assessment.known_of_model import feeds_of, healthy_ohm, quiet_ma, thermistor_of
from saldatura.job.assessment.rest import flows
from saldatura.job.assessment.sets import Assessed
from saldatura.job.assessment.words import evidence as words
from saldatura.job.facts import Danger, JobFacts, ReadingFact, SetFact, StopFact
from saldatura.job.facts.measure import MeasureFact, measured
from saldatura.ledger.clock import own_seconds

SYMPTOMS: dict[Symptom, Evidence] = {
    "full_at_once": ChargerSays(says="full_at_once"),
    "charger_refuses": ChargerSays(says="refuses"),
    "dies_under_load": ToolDoes(does="cuts_out_under_load"),
    "cuts_out": ToolDoes(does="cuts_out_under_load"),
    "short_run": ToolDoes(does="short_run"),
    "fan_or_lamp_only": ToolDoes(does="cuts_out_under_load"),
    "dead": ToolDoes(does="dead"),
    "stood_unused": Happened(what="stored_long"),
    "was_dropped": Happened(what="dropped"),
    "got_wet": Happened(what="wet"),
}
# A screen that finds one of these is evidence too.
SCREENED: dict[Danger, Evidence] = {
    "swollen": Seen(what="swollen"),
    "leaking": Seen(what="leak"),
    "wet": Happened(what="wet"),
}
# A charge tells a capacity as a test does when its range of nine in ten is within this share; a resistance within twice.
AS_A_TEST = 0.12
# What was measured of cells themselves holds for as long as they are in.
OF_CELLS = (CapacityTest, Resistance, Acir)


@dataclass(frozen=True)
class Piece:
    """Evidence that came together: in words, when, from which fact, and what of it."""

    fact: int
    at: datetime
    says: str
    evidence: tuple[Evidence, ...]
    came_from: str


def judged_pack(facts: JobFacts) -> JudgedPack:
    """The pack as the judgement takes it."""
    intake = facts.intake
    return JudgedPack(
        **dict(intake.pack), kind=intake.kind, age_years=intake.age_years, board_levels=intake.board_levels, group_ohm=healthy_ohm(facts),
        quiet_ma=quiet_ma(facts),
    )  # fmt: skip


def pieces_of(
    facts: JobFacts, probe: Assessed | None, load: Assessed | None, policy: Policy, since: int = 0
) -> list[Piece]:
    """All evidence in the order of record. Of what charger and tool are said to do, the last saying of each stands.

    `since`: only what was told of the pack after that fact, which mended it: what was said and tried before argues about the pack before.
    What was measured of cells that are still in it holds on.
    """
    intake = facts.intake
    found = [
        Piece(intake.id, intake.at, words.CUSTOMER_SAYS, tuple(SYMPTOMS[s] for s in intake.symptoms), "take_in"),
        *(
            Piece(s.id, s.at, "The safety screen", tuple(SCREENED[d] for d in s.found if d in SCREENED), "take_in")
            for s in facts.safety
        ),
        *(
            Piece(n.id, n.at, "; ".join(map(evidence_words, n.evidence)), tuple(n.evidence), "note")
            for n in facts.notes
        ),
        *(Piece(t.id, t.at, evidence_words(t.evidence), (t.evidence,), "try") for t in facts.tries),
        *(_measure(facts, m) for m in facts.measures),
        *(p for run in facts.charges if run.stopped is not None for p in _charged(run.group, run.stopped)),
    ]
    found = [p for p in found if p.fact > since or any(isinstance(e, OF_CELLS) for e in p.evidence)]
    fed = feeds_of(facts)
    if fed is not None and facts.pattern is not None:
        found.append(Piece(facts.pattern.id, facts.pattern.at, words.PATTERN_SAYS, (fed,), "pattern"))
    if probe is not None:
        found.append(_readings(facts, probe, policy, since))
    elif (held := reads_of(facts, policy)) and facts.structure.began:
        found.append(_held_on(facts, held))
    if load is not None and load.set.condition in ("load", "charging") and load.set.id > since:
        found.append(_readings(facts, load, policy, since))
    return _last_sayings(sorted((p for p in found if p.evidence), key=lambda p: p.fact))


def _held_on(facts: JobFacts, held: Mapping[int, Read]) -> Piece:
    """What is known of groups that were read before the pack was changed, or of which the drawer tells."""
    sigma = reading_sigma_v(Meter())
    evidence = [
        GroupVolts(group=k, volts=read.volts, rested_h=1.0, sigma_v=sigma)
        for k, read in held.items()
        if read.read_in != "drawer"
    ]
    last = max(held.values(), key=lambda read: read.order)
    return Piece(last.order, last.at, words.groups_as_read_before(len(evidence)), tuple(evidence), "probe")


def _last_sayings(pieces: list[Piece]) -> list[Piece]:
    """Without what an earlier fact said of charger and tool where a later one says something else of it."""
    last: dict[type, int] = {}
    chip = Registers.model_construct()
    for piece in pieces:
        for e in piece.evidence:
            if isinstance(e, ChargerSays | ToolDoes | Registers | GaugeShows):
                last[type(e)] = piece.fact
            if isinstance(e, Registers):
                # What a later reading does not say, an earlier one said.
                flags = {name: value for name in Registers.model_fields if (value := getattr(e, name)) is not None}
                chip = chip.model_copy(update=flags)
    kept = []
    for piece in pieces:
        evidence = tuple(
            chip if isinstance(e, Registers) else e
            for e in piece.evidence
            if last.get(type(e), piece.fact) == piece.fact
        )
        if evidence:
            kept.append(Piece(piece.fact, piece.at, piece.says, evidence, piece.came_from))
    return kept


# Readings of a set that are weighed one by one.
MOST_OF_A_SET = 80


def _readings(facts: JobFacts, assessed: Assessed, policy: Policy, mended: int) -> Piece:
    """A set of readings as it stands; groups charged since, and those read before the pack was changed, are as they are known now."""
    # What the work that mended it may have changed says nothing of the pack since.
    again = asked_again(facts, assessed.set, policy) if mended else {}
    standing = [
        r for r in facts.standing(assessed.set.id) if r.volts is not None and not (r.id in again and r.id < mended)
    ]
    if len(standing) > MOST_OF_A_SET:
        # Read over and over: the last of each point tells what the others do.
        standing = list({(r.point, r.place): r for r in standing}.values())[-MOST_OF_A_SET:]
    since = charged_since(facts, assessed) if assessed.set.purpose == "probe" else {}
    held = assessed.set.purpose == "probe" and any(read.before for read in reads_of(facts, policy).values())
    volts = group_volts(facts, policy) if since or held else {}
    if since or held:
        # Taps add up over the groups that were charged since: each group is told by itself as it is known now.
        sigma = reading_sigma_v(assessed.set.meter)
        evidence: list[Evidence] = [GroupVolts(group=g, volts=v, rested_h=1.0, sigma_v=sigma) for g, v in volts.items()]
    else:
        pack = judged_pack(facts)
        # A slip of the unit that was kept stands on record; it is no evidence of any cell.
        evidence = [e for r in standing if abs((e := _reading(assessed.set, r, pack)).volts) <= most_v(pack, e)]
    count = len(evidence)
    under = {"load": ", under load", "charging": ", charging"}.get(assessed.set.condition, "")
    last = max((r.id for r in standing), default=assessed.set.id)
    at = max((r.at for r in standing), default=assessed.set.at)
    return Piece(last, at, f"{count} reading{'' if count == 1 else 's'}{under}", tuple(evidence), "probe")


def _reading(reading_set: SetFact, r: ReadingFact, pack: JudgedPack) -> VoltsRead:
    assert r.volts is not None
    condition = reading_set.condition if reading_set.condition in ("load", "charging") else "rest"
    rested = None
    if reading_set.rest_since is not None and condition == "rest":
        rested = max(own_seconds(reading_set.rest_since, None, r.at, None) / 3600, 0.0)
    beside = {
        "volts": r.volts,
        "condition": condition,
        "current_a": reading_set.current_a,
        "rested_h": rested,
        "sigma_v": reading_sigma_v(reading_set.meter, r.resolution_v),
    }
    match r.point:
        case GroupPoint(group=g):
            return DirectVolts(group=g, **beside) if r.place == "tab" else GroupVolts(group=g, **beside)
        case TapPoint(tap=t):
            return TapVolts(tap=t, **beside)
        case SpanPoint(from_tap=a, to_tap=b) if 0 < a == pack.lowest_tap(b) and r.place != "tab":
            return TapVolts(tap=b, **beside)
        case SpanPoint(from_tap=a, to_tap=b):
            if r.place == "tab" and b - a == 1:
                return DirectVolts(group=b, **beside)
            return SpanVolts(
                from_tap=min(a, b), to_tap=max(a, b), **{**beside, "volts": r.volts if b > a else -r.volts}
            )
        case PackPoint():
            return TerminalVolts(**beside)
    raise AssertionError(r.point)


def _measure(facts: JobFacts, fact: MeasureFact) -> Piece:
    heard = measured(facts.memo, fact, facts.intake.pack)
    # A gauge that was read before a current flowed is no witness of the charge since.
    flowed = any(flow.fact > fact.id for flow in flows(facts))
    other_chip = fact.id < board_since(facts)
    evidence = tuple(
        _of_model(facts, e)
        for e in fact.measure.evidence(facts.intake.pack)
        if not (isinstance(e, GaugeShows) and (flowed or other_chip)) and not (isinstance(e, Registers) and other_chip)
    )
    return Piece(fact.id, fact.at, heard.says.rstrip("."), evidence, "measure")


def _of_model(facts: JobFacts, evidence: Evidence) -> Evidence:
    """A sensor of which nobody told more is the one that packs of its pattern have."""
    known = thermistor_of(facts) if isinstance(evidence, SensorOhm) and evidence.r25_ohm is None else None
    return evidence if known is None else evidence.model_copy(update=dict(known))


def _charged(group: int, stop: StopFact) -> Iterable[Piece]:
    """What a driven charge told of its group, where it told it as well as a test would."""
    counted, found = stop.measured, list[Evidence]()
    if counted.ah is not None and counted.ah_doubt <= AS_A_TEST * counted.ah:
        found.append(CapacityTest(group=group, ah=counted.ah))
    if counted.ohm is not None and counted.ohm_doubt <= 2 * AS_A_TEST * counted.ohm:
        found.append(Resistance(group=group, ohm=counted.ohm, after_s=10.0))
    if found:
        yield Piece(stop.id, stop.at, words.charge_of_group(group), tuple(found), "measure")

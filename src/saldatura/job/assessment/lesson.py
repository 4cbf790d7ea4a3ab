"""What a pack taught: what its job knows that its pattern does not say yet, as a sheet to be taken over line by line."""

import re
from collections.abc import Iterable, Sequence
from contextlib import suppress
from statistics import median
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel, ValidationError

from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import Blink, BoardFeeds
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.sensor import sense
from saldatura.battery.pack.sensors import Thermistor
from saldatura.battery.quantities import Value, groups_words
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.judging import mended_at
from saldatura.job.assessment.pattern import differences, steps_done
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.words import pattern as words
from saldatura.job.facts import HarvestedFact, IntakeFact, JobFacts
from saldatura.job.facts.block import BlockFact, WiringFact
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.facts.pattern import LessonTaken
from saldatura.job.facts.photo import pinned
from saldatura.shop.block import NewBlock
from saldatura.shop.patterns.diff import Change, changes
from saldatura.shop.patterns.sheet import (
    MOST_PHOTOS,
    MOST_POINTS,
    Built,
    CellSeen,
    CodeSeen,
    NormalSeen,
    PatternSheet,
    PhotoPoint,
    PhotoSeen,
    PinSeen,
    PlugSeen,
    QuirkSeen,
)
from saldatura.shop.patterns.statement import Statement

# A healthy sensor of the model reads within this share of the others at the same temperature; rounded so, °C.
SENSOR_WITHIN, ROUND_C = 0.15, 5.0
MOST_NOTES = 6
MOST_OF_SECTION = 60


class Lesson(Value):
    """What a job taught: the lines that could be taken over into its pattern (None: it has none, and one would begin with them), those that
    were, and what is counted by itself.
    """

    pattern: int | None
    title: str
    revision: int | None
    lines: list[Change]
    taken: list[str]
    counts: list[str]


def blank(facts: JobFacts) -> PatternSheet:
    """The sheet that a pattern of this pack would begin with: its name, its cells and nothing else."""
    intake = facts.as_told
    title = " ".join(nameless(facts, intake.pack_name).replace("…", " ").split()).removesuffix(" of").strip(" ,-")
    return PatternSheet(title=title or intake.pack.label, pack=intake.pack, kind=intake.kind)


def nameless(facts: JobFacts, text: str) -> str:
    """A text without the customer's name, how they are reached, or the pack's serial: nothing of them goes into a pattern."""
    whole = {part.strip() for i in facts.recorded(IntakeFact) for part in (i.customer, i.contact, i.serial)}
    # Somebody is called by a part of a name as well.
    private = {part for one in whole for part in (one, *re.findall(r"[^\W_]{3,}", one)) if len(part) > 2}
    if not private:
        return text
    # The longest first: a name may be a part of another.
    names = "|".join(re.escape(part) for part in sorted(private, key=len, reverse=True))
    return re.sub(rf"(?<!\w)(?:{names})(?!\w)", "…", text, flags=re.IGNORECASE)


def lesson_of(facts: JobFacts, base: PatternSheet, policy: Policy) -> list[Change]:
    """The lines that the job adds to a sheet, without those taken over before."""
    taken = {line for fact in facts.of_kind(LessonTaken) for line in fact.lines}
    return [change for change in changes(base, taught(facts, base, policy)) if change.line not in taken]


def taught(facts: JobFacts, base: PatternSheet, policy: Policy) -> PatternSheet:
    """The sheet as it would be with everything that the job teaches; nothing of it is taken away. A pack that was shortened, or is of another
    build, teaches nothing of taps and groups.
    """
    same = facts.intake.pack.series == base.pack.series == facts.as_told.pack.series
    fields: dict[str, Any] = {
        "normals": _more(base.normals, _normals(facts, base, policy)),
        "codes": _more(base.codes, _codes(facts)),
        "cells": _more(base.cells, _cells(facts)),
        "quirks": _more(base.quirks, [*_feeds(facts, same), *_otherwise(facts), *_noted(facts)]),
        "opening": _ticked(base.opening, steps_done(facts, "opening")),
        "closing": _ticked(base.closing, steps_done(facts, "closing")),
    }
    if same:
        fields["photos"] = _photos(facts, base)
        fields["plugs"] = _more(base.plugs, _plugs(facts))
        block = facts.of_kind(BlockFact)
        if block and base.built is None:
            bare = {
                "work": None, "work_groups": [], "harness": False, "parts": [p.model_copy(update={"price": None}) for p in block[-1].parts]
            }  # fmt: skip
            of_block = {name: getattr(block[-1], name) for name in NewBlock.model_fields}
            # Two parts that were told apart by a name alone cannot be without it.
            with suppress(ValidationError):
                fields["built"] = _from_job(facts, Built, block=NewBlock(**{**of_block, **bare}))
        if not base.outside_taps:
            fields["outside_taps"] = facts.as_told.outside_taps
    for name in ("has_board", "has_balance_wires", "has_sensor", "board_levels"):
        if getattr(base, name) is None:
            fields[name] = getattr(facts.as_told, name)
    return PatternSheet(**{**dict(base), **fields})


def _from_job(facts: JobFacts, kind: type[Statement], **values: Any) -> Any:
    fields = kind.model_fields
    clean = {name: _clean(facts, value, fields[name].annotation) for name, value in values.items()}
    return kind(source="job", origin=words.job_named(facts.id), **clean)


def _clean(facts: JobFacts, value: Any, annotation: Any = None) -> Any:
    """A value without the customer's name anywhere in it, however deep. `of`: the field's type; one of a fixed list says nothing of anybody,
    whatever the customer is called.
    """
    if isinstance(value, BaseModel):
        fields = type(value).model_fields
        return {name: _clean(facts, getattr(value, name), field.annotation) for name, field in fields.items()}
    if isinstance(value, dict):
        return {key: _clean(facts, one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_clean(facts, one, annotation) for one in value]
    return nameless(facts, value) if isinstance(value, str) and not _is_choice(annotation) else value


def _is_choice(annotation: Any) -> bool:
    return get_origin(annotation) is Literal or any(_is_choice(one) for one in get_args(annotation))


def _more(held: Sequence[Statement], new: Iterable[Statement]) -> list[Statement]:
    """What is held, and after it what is new by its key."""
    found = {one.key.casefold(): one for one in held}
    for one in new:
        if len(found) < MOST_OF_SECTION:
            found.setdefault(one.key.casefold(), one)
    return list(found.values())


def _ticked(held: Sequence[Statement], done: Sequence[str]) -> list[Statement]:
    return [one.model_copy(update={"confirmed": one.confirmed + 1}) if one.key in done else one for one in held]


def _photos(facts: JobFacts, base: PatternSheet) -> list[PhotoSeen]:
    """Photos with pins, and the points that are new on those that the sheet has."""
    found = {photo.photo.casefold(): photo for photo in base.photos}
    by_file = {photo.sha256: photo for photo in base.photos}
    for kept in pinned(facts.photos, facts.pins):
        points = [PhotoPoint(place=pin.place, x=round(pin.x, 4), y=round(pin.y, 4)) for pin in kept.pins]
        known = by_file.get(kept.photo.sha256)
        if known is not None:
            new = [p for p in points if all(p.place != held.place for held in known.points)]
            if new:
                more = [*known.points, *new][:MOST_POINTS]
                found[known.photo.casefold()] = known.model_copy(update={"points": more})
        elif points and len(found) < MOST_PHOTOS:
            name = nameless(facts, kept.photo.caption).strip()[:50] or words.photo_of_job(facts.id)
            named = name if name.casefold() not in found else f"{name} {len(found) + 1}"
            found[named.casefold()] = _from_job(
                facts, PhotoSeen, photo=named, sha256=kept.photo.sha256, width=kept.photo.width, height=kept.photo.height,
                points=points[:MOST_POINTS],
            )  # fmt: skip
    return list(found.values())


def _plugs(facts: JobFacts) -> list[PlugSeen]:
    wired = facts.of_kind(WiringFact)
    return [
        _from_job(
            facts, PlugSeen, plug=nameless(facts, connector.name), carries="balance" if any(p.tap is not None for p in connector.pins) else "other",
            pins=[PinSeen(pin=p.pin, wire=p.wire, tap=p.tap, sensor=p.sensor or "") for p in connector.pins],
        )
        for connector in (wired[-1].connectors if wired else [])
    ]  # fmt: skip


def _codes(facts: JobFacts) -> list[CodeSeen]:
    """What the lamps showed, where a note says what that was and what it means."""
    found = []
    for note in facts.notes:
        blink = next((e for e in note.evidence if isinstance(e, Blink)), None)
        shows = nameless(facts, note.text).strip()[:60]
        if blink is not None and shows and blink.means != "unknown":
            found.append(_from_job(facts, CodeSeen, shows=shows, means=blink.means))
    return found


def _feeds(facts: JobFacts, same: bool) -> list[QuirkSeen]:
    fed = [
        e
        for n in facts.notes
        for e in n.evidence
        if isinstance(e, BoardFeeds) and len(e.groups) < facts.intake.pack.series
    ]
    if not same or not fed:
        return []
    says = words.board_is_fed_by(groups_words(fed[-1].groups).lower())
    return [_from_job(facts, QuirkSeen, says=says, feeds_board=fed[-1].groups)]


def _otherwise(facts: JobFacts) -> list[QuirkSeen]:
    """What this pack had otherwise: a note on the pattern, and no change of it."""
    return [_from_job(facts, QuirkSeen, says=words.another_of_it(line)[:240]) for line in differences(facts)]


def _noted(facts: JobFacts) -> list[QuirkSeen]:
    """What was written down beside: perhaps of this pack alone, which the hand knows."""
    texts = [nameless(facts, n.text).strip() for n in facts.notes if not any(isinstance(e, Blink) for e in n.evidence)]
    return [_from_job(facts, QuirkSeen, says=text[:240]) for text in texts[-MOST_NOTES:] if len(text) > 3]


def _cells(facts: JobFacts) -> list[CellSeen]:
    size = facts.need.cell_size if facts.need is not None else ""
    return [_from_job(facts, CellSeen, cell=harvest.type, size=size) for harvest in facts.of_kind(HarvestedFact)[-1:]]


def _normals(facts: JobFacts, base: PatternSheet, policy: Policy) -> list[NormalSeen]:
    """What its sensor read where that can be believed, and its groups' resistance where most were measured."""
    found = []
    # What a sensor read before its own circuit was mended is no healthy reading.
    since = mended_at(facts) or facts.last_id if any(r.cause == "sensor_circuit" for r in facts.rulings) else 0
    for fact in facts.of_kind(MeasureFact):
        if fact.id < since:
            continue
        sensor = fact.measure.sensor if isinstance(fact.measure, SensorMeasure) else None
        if sensor is None or sensor.ohm is None or sense(sensor).state != "believable":
            continue
        at_c = round(sensor.ambient_c / ROUND_C) * ROUND_C
        # What it would read at the round temperature: two degrees are a tenth of a thermistor.
        here, ohm_at_c = (Thermistor(r25_ohm=sensor.r25_ohm, b_k=sensor.b_k).ohm(c) for c in (sensor.ambient_c, at_c))
        ohm = float(f"{sensor.ohm * ohm_at_c / here:.4g}")
        low, high = (float(f"{ohm * (1 + way * SENSOR_WITHIN):.3g}") for way in (-1, 1))
        found.append(_from_job(facts, NormalSeen, reads="sensor_ohm", value=ohm, low=low, high=high, at_c=at_c))
    ohms = [
        g.resistance_ohm.value
        for g in groups_now(facts, assess_set(facts, "probe", policy), policy)
        if g.resistance_ohm
    ]
    if len(ohms) * 2 > base.pack.series and len(ohms) > 1:
        middle = median(ohms)
        found.append(_from_job(facts, NormalSeen, reads="group_ohm", value=round(middle, 5)))
    return found

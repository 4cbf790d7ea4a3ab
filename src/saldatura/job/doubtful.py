"""What is sent and hardly can be meant: asked about once, with the likely meaning, and kept where it is confirmed."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from saldatura.battery.limits.plausible import COUNTS_OVER, COUNTS_OVER_AH, HAND_HELD_C, LEAST_CELL_AH, MOST_CELL_AH
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.measures.evidence import Seen
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import MENDED_FROM, MENDED_TO, Pack
from saldatura.job import words
from saldatura.job.assessment.odd_charges import Odd, asked_end
from saldatura.job.assessment.words.odd_charges import WHY_ODD
from saldatura.job.facts import EndOfCharge, Intake, JobFacts, NewNote, NewSet, NewWork
from saldatura.job.facts.work import BOARD_NAMES, PartPlace

# How far a group's resistance at 1 kHz may lie from what cells of its size usually have, either way.


class Doubtful(Exception):
    """What is sent hardly can be meant; `field` names it, `code` what is odd, `message` asks."""

    def __init__(self, field: str, code: str, message: str) -> None:
        super().__init__(message)
        self.field = field
        self.code = code
        self.message = message


def asked_about(facts: JobFacts | None, new: Any, at: datetime | None = None) -> Doubtful | None:
    """The question that an act raises at a moment; None where it may well be meant."""
    # Once is enough: a job that was begun by such a clock goes on by it.
    known = facts is not None and facts.by_class and _odd(facts.whole[-1].at)
    if (odd := _odd_year(new, None if known else at)) is not None:
        return odd
    pack = new.pack if isinstance(new, Intake) else facts.intake.pack if facts is not None and facts.by_class else None
    if pack is None:
        return None
    return next(_questions(facts, pack, new, at), None)


def _odd(when: datetime) -> bool:
    return not MENDED_FROM <= when.year < MENDED_TO


def _odd_year(new: Any, at: datetime | None) -> Doubtful | None:
    """Dates that are told, and this machine's own, in years in which no pack is mended here."""
    times = [("clock", at), *((name, getattr(new, name)) for name in getattr(type(new), "model_fields", ()))]
    for name, when in times:
        if isinstance(when, datetime) and _odd(when):
            whose = words.MACHINES_CLOCK_SAYS if name == "clock" else "the date is"
            return Doubtful(name, "clock_doubtful", words.set_it_right_first(whose, when))
    return None


def _questions(facts: JobFacts | None, pack: Pack, new: Any, at: datetime | None) -> Iterator[Doubtful]:
    match new:
        case Intake():
            known = facts is not None and facts.by_class and facts.intake.pack == pack
            if not known:
                yield from _capacity("pack.rated_ah", pack.rated_ah, pack.parallel)
                yield from _current("pack.load_a", pack.load_a, pack, None)
        case NewSet(purpose="load"):
            yield from _current("current_a", new.current_a, pack, pack.load_a)
        case EndOfCharge(outcome="finished") if (
            facts is not None and at is not None and (odd := _odd_charge(facts, new, at))
        ):
            yield Doubtful("outcome", "charge_ended_oddly", words.has_this_charge_finished(WHY_ODD[odd]))
        case EndOfCharge(counted_ah=float(counted)):
            run = next((run for run in facts.charges if run.id == new.charge), None) if facts is not None else None
            # A virtual pack's charge goes by its own clock.
            if run is None or at is None or run.clock_s is not None:
                return
            most = run.current_a * (at - run.at).total_seconds() / 3600
            if counted > COUNTS_OVER * most + COUNTS_OVER_AH:
                guess = words.from_counted(counted) if counted / 1000 <= COUNTS_OVER * most + COUNTS_OVER_AH else ""
                yield Doubtful(
                    "counted_ah",
                    "charge_counted_oddly",
                    words.counted_where_give(counted, run.current_a, most, _or(guess)),
                )
        case NewNote():
            seen = {e.what for e in new.evidence if isinstance(e, Seen)}
            before = {
                e.what
                for note in (facts.notes if facts is not None else [])
                for e in note.evidence
                if isinstance(e, Seen)
            } - {"nothing", "opened_before"}
            if "nothing" in seen and len(seen) > 1:
                yield Doubtful("evidence", "nothing_odd_seen", words.nothing_odd(seen).replace("_", " "))
            elif "nothing" in seen and before:
                yield Doubtful("evidence", "odd_was_seen", words.nothing_odd_is_noted(before).replace("_", " "))
        case NewWork(did="replaced_part", board=None) if _is_board(new):
            yield Doubtful("board", "board_of_own_kind", words.PACKS_OWN_KIND)
        case Measure():
            yield from (Doubtful(*doubt) for doubt in new.doubts(pack))


def _odd_charge(facts: JobFacts, new: EndOfCharge, at: datetime) -> Odd | None:
    run = next((run for run in facts.charges if run.id == new.charge), None)
    # A virtual pack's charge goes by its own clock.
    if run is None or run.clock_s is not None:
        return None
    return asked_end(facts, new, (at - run.at).total_seconds(), DEFAULT_POLICY)


def _is_board(new: NewWork) -> bool:
    return new.place.kind == "board" or (
        isinstance(new.place, PartPlace) and new.place.part.strip().casefold() in BOARD_NAMES
    )


def _capacity(field: str, ah: float, parallel: int) -> Iterator[Doubtful]:
    each = ah / parallel
    if each > MOST_CELL_AH:
        guess = words.from_ah(ah) if LEAST_CELL_AH <= each / 1000 <= MOST_CELL_AH else ""
        yield Doubtful(field, "cell_too_large", words.is_cell_more_than(ah, each, _or(guess)))
    elif each < LEAST_CELL_AH:
        guess = f": {ah * 1000:g} Ah" if LEAST_CELL_AH <= each * 1000 <= MOST_CELL_AH else ""
        yield Doubtful(field, "cell_too_small", words.is_cell_less_than(ah, each, _or(guess)))


def _current(field: str, amps: float | None, pack: Pack, device_a: float | None) -> Iterator[Doubtful]:
    most = max(HAND_HELD_C * pack.whole_ah, 1.5 * (device_a or 0.0))
    if amps is not None and amps > most:
        guess = words.amps(amps) if amps >= 100 * pack.whole_ah else ""
        yield Doubtful(
            field, "current_too_high", words.times_what_give(amps, pack.whole_ah, _or(guess))
        )  # fmt: skip


def _or(guess: str) -> str:
    return words.guess(guess) if guess else ""

"""The rules of a verdict, the gravest first: each looks at the case and says what it concludes, or passes it on."""

from collections.abc import Callable

from saldatura.battery.quantities import volts_words
from saldatura.battery.string.terminals_alone import terminals_say
from saldatura.battery.verdict.case import Ruling, VerdictCase
from saldatura.battery.verdict.types import VerdictKind
from saldatura.battery.verdict.words import rules as words
from saldatura.battery.verdict.words import stops

STRUCTURAL = ("open_tap", "swapped_taps", "shifted_connector")
MISREAD = ("wrong_reading", "reversed_probes")


def _turned(case: VerdictCase) -> Ruling | None:
    if not case.solved.turned:
        return None
    said = case.doubts("reversed_probes")[0].because
    return Ruling(
        "readings_inconsistent",
        words.PROBES_OR_POLARITY_EVERY,
        [said],
        words.EXCHANGE_PROBES_AND_READ,
        alone=True,
    )


def _terminals_alone(case: VerdictCase) -> Ruling | None:
    """What the terminals bound, where they are all that was read."""
    ends = [r.volts for r in case.request.readings if r.kind == "pack"]
    if not ends or len(ends) < len(case.request.readings):
        return None
    terminals = terminals_say(case.window, case.request.pack.in_string, ends[-1])
    kinds: dict[str, VerdictKind] = {
        "under_floor": "group_under_floor",
        "run_flat": "run_flat",
        "above_full": "overcharged",
        "reversed": "readings_inconsistent",
    }
    mean = volts_words(terminals.mean_v)
    headline = {
        "reversed": words.PROBES_OR_POLARITY_TERMINALS,
        "off": words.NOTHING_AT_TERMINALS,
        "under_floor": words.least_one_group_lies(mean),
        "run_flat": words.least_one_group_lies_at_or_less(mean),
        "above_full": words.LEAST_ONE_GROUP_STANDS,
        "empty": words.group_empty_or_some(mean),
        "inside": words.NOTHING_IS_SETTLED_YET,
    }[terminals.code]
    return Ruling(
        kinds.get(terminals.code, "cannot_tell"),
        headline,
        terminals.says,
        case.read_next() or "Read every group.",
        alone=True,
    )


def _nothing_read(case: VerdictCase) -> Ruling | None:
    if any(g.state != "unread" for g in case.groups):
        return None
    structural = case.doubts(*STRUCTURAL, *MISREAD)
    slip = stops.scale_slip(case.request, case.window)
    if slip is not None:
        headline = words.EVERY_READING_IS_OFF
        return Ruling("readings_inconsistent", headline, [slip], "Read them again.", alone=True)
    if structural:
        return _inconsistent(case)
    return Ruling(
        "cannot_tell",
        words.NOTHING_IS_SETTLED_YET,
        [words.NO_GROUPS_VOLTAGE_FOLLOWS],
        case.read_next(),
    )


def _overcharged(case: VerdictCase) -> Ruling | None:
    over = case.having("overcharged")
    if not over:
        return None
    name, full = case.window.name, case.window.full_v
    reasons = [words.above_that_is_full(stops.name_groups(over), over, stops.volts_of(over), full, name)]
    other = stops.other_chemistry(case.request.pack.chemistry, max(g.volts or 0.0 for g in over))
    if other:
        reasons.append(other)
    worse = case.having("reversed", "dead", "under_floor", "run_flat")
    if worse:
        reasons.append(words.beside_it(stops.name_groups(worse), worse, stops.volts_of(worse)))
    apart = case.having("low", "high")
    reasons += [stops.off_sentence(apart, len(case.groups))] if apart else []
    return Ruling(
        "overcharged",
        words.above_full(stops.name_groups(over), over),
        reasons,
        words.read_on_cells_own(stops.name_groups(over), over, full),
    )


def _reversed_or_dead(case: VerdictCase) -> Ruling | None:
    bad = case.having("reversed", "dead")
    if not bad:
        return None
    reversed_, dead = case.having("reversed"), case.having("dead")
    nickel = case.window.family == "nickel"
    reasons = [
        words.driven_through_zero(stops.name_groups(reversed_), reversed_, stops.volts_of(reversed_))
        if reversed_
        else "",
        words.nothing_is_left(stops.name_groups(dead), dead, stops.volts_of(dead)) if dead else "",
        (stops.NICKEL_ONCE if dead else words.REVERSED_NICKEL_CELL) if nickel else words.NOT_TO_BE_CHARGED,
    ]
    apart = case.having("under_floor", "run_flat", "low", "high")
    reasons += [stops.off_sentence(apart, len(case.groups))] if apart else []
    return Ruling(
        "reversed_or_dead_group",
        f"{stops.name_groups(bad)} {'is' if len(bad) == 1 else 'are'} "
        + ("reversed" if not dead else "dead" if not reversed_ else "dead or reversed"),
        reasons,
        case.on_tabs(bad),
    )


def _under_floor(case: VerdictCase) -> Ruling | None:
    bad = case.having("under_floor")
    if not bad:
        return None
    floor = case.window.rest_floor_v
    apart = case.having("run_flat", "low", "high")
    return Ruling(
        "group_under_floor",
        words.under_floor(stops.name_groups(bad), bad),
        [
            words.under_floor_2(stops.name_groups(bad), bad, stops.volts_of(bad), floor, case.window.name),
            words.BELOW_FLOOR_COPPER_MAY,
            stops.off_sentence(apart, len(case.groups)) if apart else "",
        ],
        case.on_tabs(bad),
    )


def _run_flat(case: VerdictCase) -> Ruling | None:
    bad = case.having("run_flat")
    if not bad:
        return None
    apart = case.having("low", "high")
    return Ruling(
        "run_flat",
        f"{stops.name_groups(bad)} run flat",
        [
            words.run_flat_above_floor(
                stops.name_groups(bad),
                bad,
                stops.volts_of(bad),
                case.window.rest_floor_v,
                case.window.charge_normally_from_v,
                case.window.name,
            ),
            stops.run_flat_next(bad, case.window, case.policy),
            stops.off_sentence(apart, len(case.groups)) if apart else "",
        ],
        case.on_tabs(bad),
    )


def _inconsistent(case: VerdictCase) -> Ruling | None:
    structural = case.doubts(*STRUCTURAL)
    if not structural and not (case.doubts(*MISREAD) and case.plumb_v is None):
        return None
    apart = case.having("low", "high")
    kind: VerdictKind = "imbalanced" if apart else "readings_inconsistent"
    headline = stops.doubt_headline(structural)
    if apart:
        headline = f"{stops.out_of_line(apart)}; {headline[0].lower()}{headline[1:]}"
    reasons = [f.because for f in structural]
    reasons += [stops.off_sentence(apart, len(case.groups))] if apart else [words.NO_CELL_IS_CALLED]
    return Ruling(kind, headline, reasons, stops.doubt_settles(structural, case.read_next()))


def _incomplete(case: VerdictCase) -> Ruling | None:
    unread = case.having("unread")
    if not unread:
        return None
    reasons = [f.because for f in case.doubts(*MISREAD)]
    reasons += [f.because for f in case.solved.findings if f.kind == "undetermined"]
    apart = case.having("low", "high")
    if apart:
        reasons.append(stops.off_sentence(apart, len(case.groups)))
        headline = f"{stops.out_of_line(apart)} so far"
    elif case.doubts(*MISREAD):
        headline = words.misread_what_is_settled(stops.name_groups(unread))
    else:
        headline = words.NOT_EVERY_GROUP
    return Ruling("cannot_tell", headline, reasons, case.read_next())


def _imbalanced(case: VerdictCase) -> Ruling | None:
    apart = case.having("low", "high")
    if not apart:
        return None
    reasons = [stops.off_sentence(apart, len(case.groups))]
    level = case.having("level")
    if len(level) > 1:
        volts = [g.volts for g in level if g.volts is not None]
        reasons.append(words.other_hang_within(len(level), volts))
    if case.flat and case.window.family == "lithium":
        reasons.append(words.HOW_MUCH_CHARGE_LIES)
    settles = words.SAME_GROUPS_UNDER_LOAD
    if case.solved.look_alikes:
        settles = case.read_next() or settles
    return Ruling("imbalanced", stops.out_of_line(apart), reasons, settles)


def _in_doubt(case: VerdictCase) -> Ruling | None:
    doubtful = case.having("in_doubt")
    if not doubtful:
        return None
    return Ruling(
        "cannot_tell",
        words.doubt_others_hang_level(stops.name_groups(doubtful)),
        [stops.in_doubt_says(g, case.solved, case.request.pack.chemistry) for g in doubtful],
        case.read_next() or words.read_again_on_own(stops.name_groups(doubtful), doubtful),
    )


def _voltage_says_little(case: VerdictCase) -> Ruling | None:
    apart = case.having("low", "high")
    beside = [stops.off_sentence(apart, len(case.groups)) if apart else stops.level_says(case.groups)]
    if case.window.family == "nickel":
        return Ruling(
            "cannot_tell",
            words.REST_VOLTAGE_SAYS_LITTLE,
            [
                words.NO_GROUP_IS_DEAD,
                *beside,
            ],
            words.GROUPS_UNDER_LOAD,
        )
    if case.flat:
        return Ruling(
            "cannot_tell",
            words.CANNOT_TELL_CHARGE,
            [
                words.FLAT_PART_OF_CURVE,
                *beside,
            ],
            words.GROUPS_AT_END,
        )
    return None


def _terminals_only(case: VerdictCase) -> Ruling | None:
    check = case.solved.sum_check
    if check is None or check.agrees:
        return None
    level = stops.level_says(case.groups)
    if check.state == "off":
        return Ruling(
            "output_open",
            words.STRING_HANGS_LEVEL_NOTHING,
            [level, check.says],
            words.NODES_OF_POWER_PATH,
        )
    return Ruling(
        "terminals_differ",
        words.STRING_HANGS_LEVEL_TERMINALS,
        [level, check.says],
        words.READ_TERMINALS_AGAIN + (words.THEN_ALONG_POWER_PATH if check.state == "diode" else "."),
    )


def _sound(case: VerdictCase) -> Ruling | None:
    happened = stops.happened_says(case.request.symptoms)
    reasons = [*happened, stops.level_says(case.groups)]
    misread = case.doubts(*MISREAD)
    if happened:
        return Ruling(
            "cannot_tell",
            words.LEVEL_AT_REST_WHICH,
            reasons,
            stops.look_first(case.request.symptoms),
        )
    settles = words.LOAD_STEP_WEAK_CELLS if case.solved.sum_check is not None else words.PACK_TERMINALS_THEIR_READING
    if misread:
        return Ruling(
            "sound",
            words.STRING_HANGS_LEVEL_ONE,
            [*reasons, misread[0].because],
            case.read_next(),
        )
    headline = words.STRING_HANGS_LEVEL if len(case.groups) > 1 else words.GROUP_IS_WHERE
    return Ruling("sound", headline, reasons, stops.look_first(case.request.symptoms) or settles)


RULES: list[Callable[[VerdictCase], Ruling | None]] = [
    _turned,
    _terminals_alone,
    _nothing_read,
    _overcharged,
    _reversed_or_dead,
    _under_floor,
    _run_flat,
    _inconsistent,
    _incomplete,
    _imbalanced,
    _in_doubt,
    _voltage_says_little,
    _terminals_only,
    _sound,
]

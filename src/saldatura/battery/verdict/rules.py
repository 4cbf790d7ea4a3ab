"""The rules of a verdict, the gravest first: each looks at the case and says what it concludes, or passes it on."""

from collections.abc import Callable

from saldatura.battery.quantities import volts_words
from saldatura.battery.string.terminals_alone import terminals_say
from saldatura.battery.verdict import words
from saldatura.battery.verdict.case import Ruling, VerdictCase
from saldatura.battery.verdict.types import VerdictKind
from saldatura.battery.wording import agree, volts_small

STRUCTURAL = ("open_tap", "swapped_taps", "shifted_connector")
MISREAD = ("wrong_reading", "reversed_probes")


def _turned(case: VerdictCase) -> Ruling | None:
    if not case.solved.turned:
        return None
    said = case.doubts("reversed_probes")[0].because
    return Ruling(
        "readings_inconsistent",
        "Probes or polarity: every reading is negative",
        [said],
        "Exchange the probes and read one group again.",
        alone=True,
    )


def _terminals_alone(case: VerdictCase) -> Ruling | None:
    """What the terminals bound, where they are all that was read."""
    ends = [r.volts for r in case.request.readings if r.kind == "pack"]
    if not ends or len(ends) < len(case.request.readings):
        return None
    told = terminals_say(case.window, case.request.pack.series, ends[-1])
    kinds: dict[str, VerdictKind] = {
        "under_floor": "group_under_floor",
        "run_flat": "run_flat",
        "above_full": "overcharged",
        "reversed": "readings_inconsistent",
    }
    mean = volts_words(told.mean_v)
    headline = {
        "reversed": "Probes or polarity: the terminals read negative",
        "off": "Nothing at the terminals",
        "under_floor": f"At least one group lies at {mean} or less: under the floor",
        "run_flat": f"At least one group lies at {mean} or less: run flat",
        "above_full": "At least one group stands above full",
        "empty": f"{mean} a group: empty, or some lie lower still",
        "inside": "Nothing is settled yet",
    }[told.code]
    return Ruling(
        kinds.get(told.code, "cannot_tell"), headline, told.says, case.read_next() or "Read every group.", alone=True
    )


def _nothing_read(case: VerdictCase) -> Ruling | None:
    if any(g.state != "unread" for g in case.groups):
        return None
    structural = case.doubts(*STRUCTURAL, *MISREAD)
    slip = words.scale_slip(case.request, case.window)
    if slip is not None:
        headline = "Every reading is off by the same slip"
        return Ruling("readings_inconsistent", headline, [slip], "Read them again.", alone=True)
    if structural:
        return _inconsistent(case)
    return Ruling(
        "cannot_tell",
        "Nothing is settled yet",
        ["No group's voltage follows from the readings so far."],
        case.read_next(),
    )


def _overcharged(case: VerdictCase) -> Ruling | None:
    over = case.having("overcharged")
    if not over:
        return None
    name, full = case.window.name, case.window.full_v
    reasons = [
        f"{words.name_groups(over)} {'rests' if len(over) == 1 else 'rest'} at {words.volts_of(over)}, above the {full:.2f} V that is full for {name}."
    ]
    other = words.other_chemistry(case.request.pack.chemistry, max(g.volts or 0.0 for g in over))
    if other:
        reasons.append(other)
    worse = case.having("reversed", "dead", "under_floor", "run_flat")
    if worse:
        reasons.append(
            f"{words.name_groups(worse)} {'reads' if len(worse) == 1 else 'read'} {words.volts_of(worse)} beside it."
        )
    apart = case.having("low", "high")
    reasons += [words.off_sentence(apart, len(case.groups))] if apart else []
    return Ruling(
        "overcharged",
        f"{words.name_groups(over)} {'stands' if len(over) == 1 else 'stand'} above full",
        reasons,
        f"Read {words.name_groups(over).lower()} on the cells' own tabs to be sure, then let {'it' if len(over) == 1 else 'them'} down over a resistor, "
        f"watched, to {full:.2f} V; charge nothing on this string before.",
    )


def _reversed_or_dead(case: VerdictCase) -> Ruling | None:
    bad = case.having("reversed", "dead")
    if not bad:
        return None
    reversed_, dead = case.having("reversed"), case.having("dead")
    nickel = case.window.family == "nickel"
    reasons = [
        f"{words.name_groups(reversed_)} {'reads' if len(reversed_) == 1 else 'read'} {words.volts_of(reversed_)}: driven through zero by the others."
        if reversed_
        else "",
        f"{words.name_groups(dead)} {'reads' if len(dead) == 1 else 'read'} {words.volts_of(dead)}: nothing is left in {'it' if len(dead) == 1 else 'them'}."
        if dead
        else "",
        (words.NICKEL_ONCE if dead else "A reversed nickel cell is replaced, not charged.")
        if nickel
        else "Not to be charged: copper may have plated through. Replace what is bad, or retire the pack.",
    ]
    apart = case.having("under_floor", "run_flat", "low", "high")
    reasons += [words.off_sentence(apart, len(case.groups))] if apart else []
    return Ruling(
        "reversed_or_dead_group",
        f"{words.name_groups(bad)} {'is' if len(bad) == 1 else 'are'} "
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
        f"{words.name_groups(bad)} {'lies' if len(bad) == 1 else 'lie'} under the floor",
        [
            f"{words.name_groups(bad)} {'rests' if len(bad) == 1 else 'rest'} at {words.volts_of(bad)}, under the floor of {floor:.2f} V for {case.window.name}.",
            "Below the floor copper may have dissolved; charging could short it from inside. There is no way past: "
            "the group is replaced, or the pack is retired.",
            words.off_sentence(apart, len(case.groups)) if apart else "",
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
        f"{words.name_groups(bad)} run flat",
        [
            f"{words.name_groups(bad)} {'rests' if len(bad) == 1 else 'rest'} at {words.volts_of(bad)}: run flat, above the floor of {case.window.rest_floor_v:.2f} V but below the {case.window.charge_normally_from_v:.1f} V from which {case.window.name} is charged as usual.",
            words.run_flat_next(bad, case.window, case.policy),
            words.off_sentence(apart, len(case.groups)) if apart else "",
        ],
        case.on_tabs(bad),
    )


def _inconsistent(case: VerdictCase) -> Ruling | None:
    structural = case.doubts(*STRUCTURAL)
    if not structural and not (case.doubts(*MISREAD) and case.plumb_v is None):
        return None
    apart = case.having("low", "high")
    kind: VerdictKind = "imbalanced" if apart else "readings_inconsistent"
    headline = words.doubt_headline(structural)
    if apart:
        headline = f"{words.out_of_line(apart)}; {headline[0].lower()}{headline[1:]}"
    reasons = [f.because for f in structural]
    reasons += (
        [words.off_sentence(apart, len(case.groups))]
        if apart
        else ["No cell is called bad on this: the wires come first."]
    )
    return Ruling(kind, headline, reasons, words.doubt_settles(structural, case.read_next()))


def _incomplete(case: VerdictCase) -> Ruling | None:
    unread = case.having("unread")
    if not unread:
        return None
    reasons = [f.because for f in case.doubts(*MISREAD)]
    reasons += [f.because for f in case.solved.findings if f.kind == "undetermined"]
    apart = case.having("low", "high")
    if apart:
        reasons.append(words.off_sentence(apart, len(case.groups)))
        headline = f"{words.out_of_line(apart)} so far"
    elif case.doubts(*MISREAD):
        headline = f"{words.name_groups(unread)} misread; what is settled hangs level"
    else:
        headline = "Not every group is settled"
    return Ruling("cannot_tell", headline, reasons, case.read_next())


def _imbalanced(case: VerdictCase) -> Ruling | None:
    apart = case.having("low", "high")
    if not apart:
        return None
    reasons = [words.off_sentence(apart, len(case.groups))]
    level = case.having("level")
    if len(level) > 1:
        volts = [g.volts for g in level if g.volts is not None]
        reasons.append(f"The other {len(level)} hang within {volts_small(max(volts) - min(volts))} of one another.")
    if case.flat and case.window.family == "lithium":
        reasons.append("How much charge lies between them the voltage does not tell: the curve is flat there.")
    settles = (
        "The same groups under load, or after a day's rest: a weak group sags, a leaking one falls, a drifted one does "
        "neither."
    )
    if case.solved.look_alikes:
        settles = case.read_next() or settles
    return Ruling("imbalanced", words.out_of_line(apart), reasons, settles)


def _in_doubt(case: VerdictCase) -> Ruling | None:
    doubtful = case.having("in_doubt")
    if not doubtful:
        return None
    return Ruling(
        "cannot_tell",
        f"{words.name_groups(doubtful)} in doubt; the others hang level",
        [words.in_doubt_says(g, case.solved, case.request.pack.chemistry) for g in doubtful],
        case.read_next()
        or f"Read {words.name_groups(doubtful).lower()} again, on {agree(len(doubtful), 'its', 'their')} own tabs.",
    )


def _voltage_says_little(case: VerdictCase) -> Ruling | None:
    apart = case.having("low", "high")
    beside = [words.off_sentence(apart, len(case.groups)) if apart else words.level_says(case.groups)]
    if case.window.family == "nickel":
        return Ruling(
            "cannot_tell",
            "Rest voltage says little of nickel cells",
            [
                "No group is dead or reversed. Nickel packs are judged on the spread under load and on capacity.",
                *beside,
            ],
            "The groups under load, or a capacity test.",
        )
    if case.flat:
        return Ruling(
            "cannot_tell",
            "Cannot tell the charge from the voltage",
            [
                "On the flat part of the curve the charge of the groups may differ widely and the voltage would hardly "
                "show it.",
                *beside,
            ],
            "The groups at the end of a charge, where the curve is steep: the first to reach full stops the charger.",
        )
    return None


def _terminals_only(case: VerdictCase) -> Ruling | None:
    check = case.solved.sum_check
    if check is None or check.agrees:
        return None
    level = words.level_says(case.groups)
    if check.state == "off":
        return Ruling(
            "output_open",
            "The string hangs level; nothing reaches the terminals",
            [level, check.says],
            "The nodes of the power path, from the string outward: the fault lies between the last that has the voltage and the first that has not.",
        )
    return Ruling(
        "terminals_differ",
        "The string hangs level; the terminals do not show it",
        [level, check.says],
        "Read the terminals again" + (", then along the power path." if check.state == "diode" else "."),
    )


def _sound(case: VerdictCase) -> Ruling | None:
    happened = words.happened_says(case.request.symptoms)
    reasons = [*happened, words.level_says(case.groups)]
    misread = case.doubts(*MISREAD)
    if happened:
        return Ruling(
            "cannot_tell",
            "Level at rest, which does not clear what happened to it",
            reasons,
            words.look_first(case.request.symptoms),
        )
    if case.solved.sum_check is not None:
        settles = "A load step: weak cells and bad joints show only under current."
    else:
        settles = "The pack terminals: their reading checks the sum."
    if misread:
        return Ruling(
            "sound",
            "The string hangs level; one reading does not fit",
            [*reasons, misread[0].because],
            case.read_next(),
        )
    headline = "The string hangs level" if len(case.groups) > 1 else "The group is where it should be"
    return Ruling("sound", headline, reasons, words.look_first(case.request.symptoms) or settles)


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

"""What can hurt the hand as the evidence stands, and the tests that are therefore not offered."""

from collections.abc import Sequence

from saldatura.battery.judge.measured import TerminalVolts
from saldatura.battery.judge.posterior import WIRES, Belief
from saldatura.battery.judge.tables import catalogue
from saldatura.battery.judge.types import Evidence
from saldatura.battery.judge.words import hazards as words
from saldatura.battery.judge.words.hazards import HAPPENED
from saldatura.battery.limits.charging import HOT_C
from saldatura.battery.limits.states import RestCode, rest_state
from saldatura.battery.measures.evidence import History, Seen
from saldatura.battery.string.terminals_alone import terminals_say

NO_CHARGE = {"ask_charger", "charge_group", "swap_charger"}
NO_LOAD = {"ask_tool", "swap_tool", "resistance", "capacity", "moving_output"}
# What is left of a pack that may burn: to ask.
HARMLESS = {"ask_history"}


def group_volts(belief: Belief) -> dict[int, float]:
    """Rest volts of each group that was read: on its tabs where they were, else at its pins."""
    found = {}
    for read_at in (belief.found.pins, belief.found.tabs):
        for g, read in read_at.items():
            rest = [r.volts for r in read if r.amps == 0]
            if rest:
                found[g] = rest[-1]
    return found


def _through_doubtful_wires(belief: Belief) -> set[int]:
    """Groups read only through a wire that is likelier at fault than not."""
    share: dict[int, float] = {}
    for h, p in zip(belief.hypotheses, belief.p, strict=True):
        if set(h.keys) & set(WIRES):
            for weight, taps, _ in h.accounts:
                for g in {g for t in taps for g in (t, t + 1)}:
                    share[g] = share.get(g, 0.0) + float(p) * weight
    return {g for g, p in share.items() if p > 0.5 and not belief.found.tabs.get(g)}


# States at rest that may not be charged as they stand, by what is said of them.
KINDS: dict[RestCode, str] = {
    "reversed": "reversed", "overcharged": "over", "empty": "floor", "under_floor": "floor", "run_flat": "flat"
}  # fmt: skip


def _low(belief: Belief) -> dict[str, list[int]]:
    """Groups by how far they stand outside what may be charged; a pin that an open wire may explain is doubted all the same."""
    window = belief.window
    found: dict[str, list[int]] = {"over": [], "reversed": [], "floor": [], "flat": [], "doubted": []}
    doubted = _through_doubtful_wires(belief)
    for g, volts in group_volts(belief).items():
        if g in doubted and not window.tool_end_v <= volts <= window.full_v:
            found["doubted"].append(g)
        elif (kind := KINDS.get(rest_state(window, volts).code)) is not None:
            found[kind].append(g)
    return found


def overcharged(belief: Belief) -> list[int]:
    """Groups that stand above full."""
    return _low(belief)["over"]


def dangers(belief: Belief) -> list[str]:
    """Hazards in sentences, gravest first."""
    said = []
    seen = {e.what for e in belief.evidence if isinstance(e, Seen)}
    if seen & {"swollen", "leak"} or ("bulged" in seen and belief.window.family == "lithium"):
        what = " and ".join(sorted(seen & {"swollen", "leak", "bulged"})).replace("leak", "leaking")
        said.append(words.cell_is_quarantine_outside(what))
    warm = [t for t in belief.found.temperatures if t.c > HOT_C]
    if warm:
        said.append(words.leave_it_outside(warm[0].group, warm[0].c))
    low = _low(belief)
    if low["over"]:
        volts = max(group_volts(belief)[g] for g in low["over"])
        said.append(words.above_full_at_overcharged(low["over"], _stands(low["over"]), volts))
    if low["reversed"]:
        said.append(words.reversed_unless_replaced_never(low["reversed"]))
    if low["floor"] and belief.window.family == "nickel":
        said.append(words.dead_revived_once(low["floor"]))
    elif low["floor"]:
        what = "under the floor"
        said.append(words.no_charge_and_no(low["floor"], _stands(low["floor"]), what))
    if low["flat"]:
        said.append(words.run_flat_only_gently(low["flat"], _stands(low["flat"])))
    if low["doubted"]:
        said.append(words.read_through_wire(low["doubted"]))
    said += _happened(belief) + _ends(belief)
    cold = [t for t in belief.found.temperatures if t.c < belief.policy.charge_from_c]
    if cold and belief.window.family == "lithium":
        said.append(words.pack_is_at_no(cold[0].c, belief.policy.charge_from_c))
    return said


def happened(evidence: Sequence[Evidence]) -> list[str]:
    """What was seen of a pack or happened to it that no measurement clears, by its name."""
    seen = [e.what for e in evidence if isinstance(e, Seen)]
    history = [e.what for e in evidence if isinstance(e, History)]
    return [name for name in HAPPENED if name in seen or name in history]


def _happened(belief: Belief) -> list[str]:
    return [HAPPENED[name] for name in happened(belief.evidence)]


def _ends(belief: Belief) -> list[str]:
    """What the terminals say by themselves: of their sign, and of the string where no group was read."""
    ends = [e.volts for e in belief.reported if isinstance(e, TerminalVolts) and e.condition == "rest"]
    if not ends:
        return []
    terminals = terminals_say(belief.window, belief.pack.in_string, ends[-1])
    alone = not belief.found.read_groups and terminals.code in ("off", "under_floor", "run_flat", "empty", "above_full")
    return terminals.says if terminals.code == "reversed" or alone else []


def _stands(groups: list[int]) -> str:
    return "stands" if len(groups) == 1 else "stand"


def unsafe(belief: Belief) -> set[str]:
    """Tests that are not offered in this state."""
    every = {row.test for row in catalogue()}
    seen = {e.what for e in belief.evidence if isinstance(e, Seen)}
    lithium = belief.window.family == "lithium"
    if (
        seen & {"swollen", "leak"}
        or ("bulged" in seen and lithium)
        or any(t.c > HOT_C for t in belief.found.temperatures)
    ):
        return every - HARMLESS
    low, barred = _low(belief), set[str]()
    if low["doubted"]:
        barred |= NO_CHARGE | NO_LOAD
    if low["over"] or low["reversed"] or low["floor"] or low["flat"]:
        # A run-flat group alone may be charged by itself, gently: that is its policy.
        barred |= (NO_CHARGE if low["over"] or low["reversed"] or low["floor"] else NO_CHARGE - {"charge_group"}) | {
            "swap_board"
        }
    if low["reversed"] or low["floor"] or low["flat"]:
        barred |= NO_LOAD
    if any(t.c < belief.policy.charge_from_c for t in belief.found.temperatures) and lithium:
        barred |= NO_CHARGE
    if seen & {"burnt_part", "heat_marks"}:
        # What burnt once may burn again as soon as current flows.
        barred |= NO_CHARGE | NO_LOAD
    if any(h.kind == "history" and h.what in ("wet", "crash") for h in belief.evidence):
        barred |= NO_CHARGE | NO_LOAD
    if (ends := _ends(belief)) and not belief.found.read_groups:
        barred |= NO_CHARGE | (NO_LOAD if ends else set())
    if not group_volts(belief):
        # A string that nobody has read is not charged group by group nor joined to another board.
        barred |= {"charge_group", "swap_board", "resistance", "capacity"}
    return barred

"""Evidence on a pack: what was measured, what was told or seen, and what was tried. The names are those of the contract."""

from typing import Annotated, Literal, Self, get_args

from pydantic import Field, model_validator

from saldatura.battery.quantities import Celsius, Fraction, GroupNumber, TapNumber, Value, Volts

Node = Literal["string", "fuse", "charge_switch", "discharge_switch", "contact", "terminal"]


class At(Value):
    """Where something is: groups, taps, a temperature sensor, a node of the power path, a supply of the board; empty where that is not
    known.
    """

    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    taps: Annotated[list[TapNumber], Field(max_length=41)] = []
    sensor: Annotated[int, Field(ge=1, le=8)] | None = None
    node: Node | None = None
    rail: Literal["board_supply", "wake"] | None = None


class ChargerSays(Value):
    """What the charger does with the pack."""

    kind: Literal["charger"] = "charger"
    says: Literal["refuses", "full_at_once", "stops_early", "fault_blink", "never_ends", "no_reaction", "normal"]


class ToolDoes(Value):
    """What the tool does with the pack."""

    kind: Literal["tool"] = "tool"
    does: Literal["dead", "cuts_out_under_load", "short_run", "gauge_jumps", "normal"]


class Blink(Value):
    """What the pack's lamps say, as its maker's table has it."""

    kind: Literal["blink"] = "blink"
    means: Literal["temperature", "cell", "communication", "unknown"]


class MovingChanges(Value):
    """Whether moving leads and plugs changes something."""

    kind: Literal["moving_changes"] = "moving_changes"
    what: Literal["blink", "sensor", "output", "group_v"]
    changes: bool


class Seen(Value):
    """What was seen."""

    kind: Literal["seen"] = "seen"
    what: Literal[
        "swollen", "bulged", "leak", "dented", "corrosion", "heat_marks", "burnt_part", "missing_part", "broken_wire", "loose_joint",
        "opened_before", "nothing",
    ]  # fmt: skip
    at: At = At()


class History(Value):
    """What the pack went through."""

    kind: Literal["history"] = "history"
    what: Literal["stored_flat", "stored_long", "dropped", "wet", "crash", "heavy_use", "opened_before"]


class Registers(Value):
    """What the pack's own chip says; what was not read stays out."""

    kind: Literal["registers"] = "registers"
    permanent_failure: bool | None = None
    charge_switch: bool | None = None
    discharge_switch: bool | None = None
    soc: Annotated[float, Field(ge=0, le=1)] | None = None
    soh: Annotated[float, Field(ge=0, le=1.5)] | None = None
    cycles: Annotated[int, Field(ge=0, le=100_000)] | None = None
    answers_unpowered: bool | None = None

    @model_validator(mode="after")
    def _something(self) -> Self:
        if all(getattr(self, name) is None for name in type(self).model_fields if name != "kind"):
            raise ValueError("give at least one register that was read")
        return self


class Temperature(Value):
    """How warm a group, or the whole pack, is, and the air about it."""

    kind: Literal["temperature"] = "temperature"
    group: GroupNumber | None = None
    c: Annotated[float, Field(ge=-60, le=400)]
    ambient_c: Celsius = 22.0


class RailVolts(Value):
    """A supply of the board itself, or the gate of the switch at which the voltage is lost, against that switch's source."""

    kind: Literal["rail_v"] = "rail_v"
    rail: Literal["board_supply", "wake", "gate"]
    volts: Volts


class GaugeShows(Value):
    """What the pack's own gauge shows."""

    kind: Literal["gauge"] = "gauge"
    fraction: Fraction


Result = Literal["fault_stays", "fault_goes", "comes_back", "another_fault"]


class Action(Value):
    """Something that was done to find the fault, and what came of it."""

    kind: Literal["action"] = "action"
    did: Literal["cleaned_connector", "reseated", "resoldered", "replaced_part", "charged_group", "woke"]
    at: At = At()
    result: Result


class Reference(Value):
    """How far a reference part is trusted: of the same revision or not (None: not known), days since it was itself proved."""

    same_revision: bool | None = None
    proved_days_ago: Annotated[float, Field(ge=0, le=36_500)] | None = None


class Swap(Value):
    """A reference part put in, and what came of it."""

    kind: Literal["swap"] = "swap"
    put: Literal["board", "pack", "charger", "tool", "harness"]
    reference: Reference = Reference()
    result: Result


Told = Annotated[
    ChargerSays | ToolDoes | Blink | MovingChanges | Seen | History | Registers, Field(discriminator="kind")
]
# What is told or seen, and the few figures that no stage of its own takes.
Noted = Annotated[
    ChargerSays | ToolDoes | Blink | MovingChanges | Seen | History | Registers | RailVolts | GaugeShows | Temperature,
    Field(discriminator="kind"),
]
Tried = Annotated[Action | Swap, Field(discriminator="kind")]

_PLAIN = {
    "full_at_once": "says full at once",
    "stops_early": "stops early",
    "fault_blink": "blinks a fault",
    "never_ends": "never ends",
    "no_reaction": "does not react",
    "cuts_out_under_load": "cuts out under load",
    "short_run": "runs only a short while",
    "gauge_jumps": "jumps on its gauge",
    "dead": "is dead",
}
RESULTS: dict[Result, str] = {
    "fault_stays": "the fault stays",
    "fault_goes": "the fault goes",
    "comes_back": "it goes and comes back",
    "another_fault": "another fault shows",
}


def at_words(at: At) -> str:
    """Where something is, in words; empty where that is not said."""
    parts = [f"group {g}" for g in at.groups] + [f"tap {t}" for t in at.taps]
    parts += [f"sensor {at.sensor}"] if at.sensor is not None else []
    parts += [at.node.replace("_", " ")] if at.node is not None else []
    parts += [at.rail.replace("_", " ")] if at.rail is not None else []
    return f" ({', '.join(parts)})" if parts else ""


def evidence_words(of: Told | Tried | Noted) -> str:
    """A piece of told or tried evidence, as the bench would say it."""
    match of:
        case ChargerSays():
            return f"charger {_PLAIN.get(of.says, of.says)}"
        case ToolDoes():
            return f"tool {_PLAIN.get(of.does, 'works normally' if of.does == 'normal' else of.does)}"
        case Blink():
            return "blink code not known" if of.means == "unknown" else f"blinks: {of.means}"
        case MovingChanges():
            what = {"blink": "the blink", "sensor": "the sensor", "output": "the output", "group_v": "a group's volts"}[
                of.what
            ]
            return f"moving it {'changes' if of.changes else 'does not change'} {what}"
        case Seen():
            return "nothing odd seen" if of.what == "nothing" else f"seen: {of.what.replace('_', ' ')}{at_words(of.at)}"
        case History():
            return f"history: {of.what.replace('_', ' ')}"
        case Action():
            return f"{of.did.replace('_', ' ')}{at_words(of.at)}, and then {RESULTS[of.result]}"
        case RailVolts():
            return f"{of.rail.replace('_', ' ')} reads {of.volts:.2f} V"
        case GaugeShows():
            return f"the gauge shows {of.fraction:.0%}"
        case Temperature():
            what = "the pack" if of.group is None else f"group {of.group}"
            return f"{what} at {of.c:.0f} °C, the air at {of.ambient_c:.0f} °C"
        case Swap():
            return f"reference {of.put} in, and then {RESULTS[of.result]}"
    return f"registers: {', '.join(_registers_say(of))}"


def _registers_say(of: Registers) -> list[str]:
    flags = {
        "permanent_failure": ("permanent failure flagged", "no permanent failure"),
        "charge_switch": ("charge switch on", "charge switch off"),
        "discharge_switch": ("discharge switch on", "discharge switch off"),
        "answers_unpowered": ("answers by itself", "answers only when fed from outside"),
    }
    said = [yes if getattr(of, name) else no for name, (yes, no) in flags.items() if getattr(of, name) is not None]
    said += [f"charge {of.soc:.0%}"] if of.soc is not None else []
    said += [f"health {of.soh:.0%}"] if of.soh is not None else []
    return [*said, f"{of.cycles} cycles"] if of.cycles is not None else said


def sites(of: Told | Tried | Noted) -> At:
    """Where a piece of evidence is, for those that have a place."""
    return of.at if isinstance(of, Seen | Action) else At()


TOLD: tuple[type[Value], ...] = get_args(get_args(Told)[0])

"""Evidence on a pack: what was measured, what was told or seen, and what was tried. The names are those of the contract."""

from typing import Annotated, Literal, Self, get_args

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.measures import words
from saldatura.battery.measures.words import PLAIN, RESULTS
from saldatura.battery.quantities import Celsius, Fraction, GroupNumber, TapNumber, Value, Volts
from saldatura.battery.wording import percent

Node = Literal["string", "fuse", "charge_switch", "discharge_switch", "contact", "terminal"]


class At(Value):
    """Where something is: groups, taps, a temperature sensor, a node of the power path, a supply of the board; empty where that is not
    known.
    """

    groups: Annotated[list[GroupNumber], Field(max_length=40)] = Field(
        [], description="The groups, from the negative end."
    )
    taps: Annotated[list[TapNumber], Field(max_length=41)] = Field([], description="Numbers of the two taps.")
    sensor: Annotated[int, Field(ge=1, le=8)] | None = Field(
        None, description="Number of the temperature sensor. Default: none."
    )
    node: Node | None = Field(None, description="Where it is touched.")
    rail: Literal["board_supply", "wake"] | None = Field(
        None,
        description="The board's own supply, its wake line, or the gate of the switch that does not pass, against that switch's source.",
    )


class ChargerSays(Value):
    """What the charger does with the pack."""

    kind: Literal["charger"] = Field("charger", description="Which kind it is.")
    says: Literal["refuses", "full_at_once", "stops_early", "fault_blink", "never_ends", "no_reaction", "normal"] = (
        Field(description="What it means, in words.")
    )


class ToolDoes(Value):
    """What the tool does with the pack."""

    kind: Literal["tool"] = Field("tool", description="Which kind it is.")
    does: Literal["dead", "cuts_out_under_load", "short_run", "gauge_jumps", "normal"] = Field(
        description="What the tool does with the pack."
    )


class Blink(Value):
    """What the pack's lamps say, as its maker's table has it."""

    kind: Literal["blink"] = Field("blink", description="Which kind it is.")
    means: Literal["temperature", "cell", "communication", "unknown"] = Field(
        description="What the code means by the pack's own table."
    )


class MovingChanges(Value):
    """Whether moving leads and plugs changes something."""

    kind: Literal["moving_changes"] = Field("moving_changes", description="Which kind it is.")
    what: Literal["blink", "sensor", "output", "group_v"] = Field(description="What it was, by its name.")
    changes: bool = Field(description="Whether it changes when it is moved.")


class Seen(Value):
    """What was seen."""

    kind: Literal["seen"] = Field("seen", description="Which kind it is.")
    what: Literal[
        "swollen", "bulged", "leak", "dented", "corrosion", "heat_marks", "burnt_part", "missing_part", "broken_wire", "loose_joint",
        "torn_tab", "opened_before", "nothing",
    ] = Field(description="What it was, by its name; `torn_tab`: of a pouch, its aluminium tab.")  # fmt: skip
    at: At = Field(At(), description="Where it was seen. Default: not said.")


class History(Value):
    """What the pack went through."""

    kind: Literal["history"] = Field("history", description="Which kind it is.")
    what: Literal["stored_flat", "stored_long", "dropped", "wet", "crash", "heavy_use", "opened_before"] = Field(
        description="What it was, by its name."
    )


class BoardFeeds(Value):
    """From which groups the board draws its own supply, as found with the board out or on a test supply; all of them: evenly."""

    kind: Literal["board_feeds"] = Field("board_feeds", description="Which kind it is.")
    groups: Annotated[list[GroupNumber], Field(min_length=1, max_length=40)] = Field(
        description="Groups that feed the board."
    )


class Registers(Value):
    """What the pack's own chip says; what was not read stays out."""

    kind: Literal["registers"] = Field("registers", description="Which kind it is.")
    permanent_failure: bool | None = Field(None, description="Whether the chip flags a permanent failure, where read.")
    charge_switch: bool | None = Field(None, description="Whether the chip says its charge switch is on, where read.")
    discharge_switch: bool | None = Field(
        None, description="Whether the chip says its discharge switch is on, where read."
    )
    soc: Annotated[float, Field(ge=0, le=1)] | None = Field(None, description="State of charge, best, 0–1.")
    soh: Annotated[float, Field(ge=0, le=1.5)] | None = Field(
        None, description="Capacity against the rated one; 1 is as new."
    )
    cycles: Annotated[int, Field(ge=0, le=100_000)] | None = Field(
        None, description="Cycles that the chip counts, where read."
    )
    answers_unpowered: bool | None = Field(
        None, description="Whether the chip answers without a supply from outside, where tried."
    )

    @model_validator(mode="after")
    def _something(self) -> Self:
        if all(getattr(self, name) is None for name in type(self).model_fields if name != "kind"):
            raise Unfitting("give_one", words.GIVE_AT_LEAST_ONE)
        return self


class Temperature(Value):
    """How warm a group, or the whole pack, is, and the air about it."""

    kind: Literal["temperature"] = Field("temperature", description="Which kind it is.")
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    c: Annotated[float, Field(ge=-60, le=400)] = Field(description="Temperature, °C.")
    ambient_c: Celsius = Field(
        22.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )


class RailVolts(Value):
    """A supply of the board itself, or the gate of the switch at which the voltage is lost, against that switch's source."""

    kind: Literal["rail_v"] = Field("rail_v", description="Which kind it is.")
    rail: Literal["board_supply", "wake", "gate"] = Field(
        description="The board's own supply, its wake line, or the gate of the switch that does not pass, against that switch's source."
    )
    volts: Volts = Field(description="Volts.")


class GaugeShows(Value):
    """What the pack's own gauge shows."""

    kind: Literal["gauge"] = Field("gauge", description="Which kind it is.")
    fraction: Fraction = Field(description="What the gauge shows, 0–1.")


Result = Literal["fault_stays", "fault_goes", "comes_back", "another_fault"]


class Action(Value):
    """Something that was done to find the fault, and what came of it."""

    kind: Literal["action"] = Field("action", description="Which kind it is.")
    did: Literal["cleaned_connector", "reseated", "resoldered", "replaced_part", "charged_group", "woke"] = Field(
        description="What was done."
    )
    at: At = Field(At(), description="Where it was done. Default: not said.")
    result: Result = Field(description="Whether it holds: pass, fail, or not yet.")


class Reference(Value):
    """How far a reference part is trusted: of the same revision or not (None: not known), days since it was itself proved."""

    same_revision: bool | None = Field(None, description="Whether it is of the same revision; null where not known.")
    proved_days_ago: Annotated[float, Field(ge=0, le=36_500)] | None = Field(
        None, description="Days since the part was itself proved; null where not known."
    )


class Swap(Value):
    """A reference part put in, and what came of it."""

    kind: Literal["swap"] = Field("swap", description="Which kind it is.")
    put: Literal["board", "pack", "charger", "tool", "harness"] = Field(description="What was put in its place.")
    reference: Reference = Field(Reference(), description="How far the part that was put in is to be trusted.")
    result: Result = Field(description="Whether it holds: pass, fail, or not yet.")


Told = Annotated[
    ChargerSays | ToolDoes | Blink | MovingChanges | Seen | History | BoardFeeds | Registers,
    Field(discriminator="kind"),
]
# What is told or seen, and the few figures that no stage of its own takes.
Noted = Annotated[
    ChargerSays
    | ToolDoes
    | Blink
    | MovingChanges
    | Seen
    | History
    | BoardFeeds
    | Registers
    | RailVolts
    | GaugeShows
    | Temperature,
    Field(discriminator="kind"),
]
Tried = Annotated[Action | Swap, Field(discriminator="kind")]


def at_words(at: At) -> str:
    """Where something is, in words; empty where that is not said."""
    parts = [f"group {g}" for g in at.groups] + [f"tap {t}" for t in at.taps]
    parts += [f"sensor {at.sensor}"] if at.sensor is not None else []
    parts += [at.node.replace("_", " ")] if at.node is not None else []
    parts += [at.rail.replace("_", " ")] if at.rail is not None else []
    return f" ({', '.join(parts)})" if parts else ""


def evidence_words(evidence: Told | Tried | Noted) -> str:
    """A piece of told or tried evidence, as the bench would say it."""
    match evidence:
        case ChargerSays():
            return f"charger {PLAIN.get(evidence.says, evidence.says)}"
        case ToolDoes():
            return f"tool {PLAIN.get(evidence.does, 'works normally' if evidence.does == 'normal' else evidence.does)}"
        case Blink():
            return words.BLINK_CODE_NOT_KNOWN if evidence.means == "unknown" else f"blinks: {evidence.means}"
        case MovingChanges():
            what = {"blink": "the blink", "sensor": "the sensor", "output": "the output", "group_v": "a group's volts"}[
                evidence.what
            ]
            return words.moving_it(evidence.changes, what)
        case Seen():
            return (
                "nothing odd seen"
                if evidence.what == "nothing"
                else f"seen: {evidence.what.replace('_', ' ')}{at_words(evidence.at)}"
            )
        case History():
            return f"history: {evidence.what.replace('_', ' ')}"
        case BoardFeeds():
            return words.board_feeds_itself(evidence.groups)
        case Action():
            return words.then_did_at_result(evidence.did, at_words(evidence.at), RESULTS[evidence.result])
        case RailVolts():
            return words.reads_rail_volts(evidence.rail, evidence.volts)
        case GaugeShows():
            return words.gauge_shows(evidence.fraction)
        case Temperature():
            what = "the pack" if evidence.group is None else f"group {evidence.group}"
            return words.air_at(what, evidence.c, evidence.ambient_c)
        case Swap():
            return words.reference_in_and_then(evidence.put, RESULTS[evidence.result])
    return f"registers: {', '.join(_registers_say(evidence))}"


def _registers_say(registers: Registers) -> list[str]:
    flags = {
        "permanent_failure": ("permanent failure flagged", "no permanent failure"),
        "charge_switch": ("charge switch on", "charge switch off"),
        "discharge_switch": ("discharge switch on", "discharge switch off"),
        "answers_unpowered": ("answers by itself", words.ANSWERS_ONLY_WHEN_FED),
    }
    said = [
        yes if getattr(registers, name) else no
        for name, (yes, no) in flags.items()
        if getattr(registers, name) is not None
    ]
    said += [f"charge {percent(registers.soc)}"] if registers.soc is not None else []
    said += [f"health {percent(registers.soh)}"] if registers.soh is not None else []
    return [*said, f"{registers.cycles} cycles"] if registers.cycles is not None else said


def sites(evidence: Told | Tried | Noted) -> At:
    """Where a piece of evidence is, for those that have a place."""
    if isinstance(evidence, BoardFeeds):
        return At(groups=evidence.groups)
    return evidence.at if isinstance(evidence, Seen | Action) else At()


TOLD: tuple[type[Value], ...] = get_args(get_args(Told)[0])

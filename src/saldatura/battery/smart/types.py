"""What a reading of registers is asked with, and what it says."""

import re
from datetime import date
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import MOST_READINGS, AmpHours, ChemistryKey, Reading, Series, Value
from saldatura.battery.smart import words as said

_NUMBER = re.compile(r"(?:0x)?[0-9a-f]{1,2}", re.IGNORECASE | re.ASCII)
_HEX = re.compile(r"(?:[0-9a-f]{2})*", re.IGNORECASE | re.ASCII)
# A block has 32 bytes at the most (SMBus 1.1, 5.5.7).
LONGEST_BLOCK = 32


def _register(key: str) -> str:
    if not _NUMBER.fullmatch(key):
        raise Unfitting("no_register", said.no_register(key[:20]))
    return f"0x{int(key, 16):02x}"


def _block(text: str) -> str:
    plain = re.sub(r"[\s:-]", "", text).lower()
    if not _HEX.fullmatch(plain) or len(plain) > 2 * LONGEST_BLOCK:
        raise Unfitting("no_block", said.NO_BLOCK)
    return plain


Register = Annotated[str, Field(min_length=1, max_length=6), AfterValidator(_register)]
Word = Annotated[int, Field(ge=0, le=0xFFFF)]
Block = Annotated[str, Field(max_length=200), AfterValidator(_block)]
Byte = Annotated[int, Field(ge=0, le=0xFF)]

Status = Literal["initialized", "discharging", "fully_charged", "fully_discharged"]
Alarm = Literal["over_charged", "terminate_charge", "over_temperature", "terminate_discharge", "remaining_capacity", "remaining_time"]  # fmt: skip
ErrorCode = Literal["ok", "busy", "reserved", "unsupported", "access_denied", "over_underflow", "bad_size", "unknown"]
Mode = Literal["capacity_in_wh", "charger_broadcasts_off", "alarm_broadcasts_off", "primary_battery", "charge_controller_on", "conditioning_wanted", "primary_battery_supported", "charge_controller_inside"]  # fmt: skip

ContradictionKind = Literal[
    "cells_do_not_add_up", "charge_against_capacities", "absolute_against_design", "remaining_over_full", "full_far_over_design",
    "charge_against_volts", "flags_against_charge", "flags_against_current", "voltage_against_meter", "cell_against_meter",
    "design_against_label", "impossible_date", "date_against_age", "few_cycles_for_age", "impossible_value", "pec_wrong",
    "healthy_but_no_current", "answers_only_fed", "stopped_though_charged",
]  # fmt: skip


class RegistersRequest(Value):
    """Words and blocks as they were read, by their numbers; a word that was asked for and did not come is null. `pec`: the code that came after a
    word or block, held against what it should be. The rest is what is known of the pack beside.
    """

    words: Annotated[dict[Register, Word | None], Field(max_length=256)] = Field(
        {},
        description="Words as read, unsigned 16 bit, by their number such as `0x09`; null: asked for, and none came.",
    )
    blocks: Annotated[dict[Register, Block], Field(max_length=256)] = Field(
        {}, description="Blocks as read, hex without the length byte, by their number such as `0x22`."
    )
    pec: Annotated[dict[Register, Byte], Field(max_length=256)] = Field(
        {}, description="The packet error code that came with a word or block, where one came."
    )
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)] = Field(
        [], description="Readings of the string with a meter, of about the same moment."
    )
    meter: Meter = Field(Meter(), description="The meter that those were taken with.")
    chemistry: ChemistryKey | None = Field(None, description="Chemistry of the cells, where known.")
    series: Series | None = Field(None, description="Groups in series, where known.")
    labelled_ah: AmpHours | None = Field(None, description="Capacity on the pack's label, Ah.")
    age_years: Annotated[float, Field(ge=0, le=100)] | None = Field(
        None, description="Age of the pack, as told, years."
    )
    today: date | None = Field(None, description="The day of the reading, to hold the chip's date against.")
    answers_unpowered: bool | None = Field(
        None, description="Whether the chip answers without a supply from outside; null: not tried."
    )
    gives_current: bool | None = Field(None, description="Whether the terminals give current; null: not tried.")

    @model_validator(mode="after")
    def _something(self) -> Self:
        if not self.words and not self.blocks:
            raise Unfitting("nothing_read", said.NOTHING_READ)
        return self


class Contradiction(Value):
    """Two things that cannot both be true, or one that cannot be: which, in a sentence, and the group where it is one's."""

    kind: ContradictionKind = Field(description="Which it is.")
    because: str = Field(description="The same in a sentence.")
    group: int | None = Field(None, description="Number of the group, from 1 at the negative end.")


class RegistersSay(Value):
    """What the words say, in units of their own; a field that was not read, or whose word means nothing, is null.

    `assumed`: what had to be taken as the specification has it, because its word was not read. `raw`: words beyond the standard, as they came.
    """

    voltage_v: float | None = Field(None, description="Voltage of the pack by its chip, V.")
    current_a: float | None = Field(None, description="Current now, A; charging is positive.")
    average_current_a: float | None = Field(None, description="Current over the last minute, A; charging is positive.")
    temperature_c: float | None = Field(None, description="Temperature by its chip, °C.")
    relative_soc: float | None = Field(None, description="Remaining of full capacity, 0–1.")
    absolute_soc: float | None = Field(None, description="Remaining of design capacity, 0 and up.")
    remaining_ah: float | None = Field(None, description="Charge that is left, Ah.")
    remaining_wh: float | None = Field(None, description="Energy that is left, Wh.")
    full_ah: float | None = Field(None, description="Charge when full, as it learned, Ah.")
    full_wh: float | None = Field(None, description="Energy when full, as it learned, Wh.")
    design_ah: float | None = Field(None, description="Charge it was designed for, Ah.")
    design_wh: float | None = Field(None, description="Energy it was designed for, Wh.")
    design_v: float | None = Field(None, description="Voltage it was designed for, V.")
    soh: float | None = Field(None, description="Full over design capacity.")
    cycles: int | None = Field(None, description="Cycles that it counts.")
    max_error: float | None = Field(None, description="Largest error of its state of charge that it expects, 0–1.")
    charging_v: float | None = Field(None, description="Voltage it asks a charger for, V; null where it names none.")
    charging_a: float | None = Field(None, description="Current it asks a charger for, A; null where it names none.")
    to_empty_min: int | None = Field(
        None, description="Minutes until empty at the average current; null where none flows."
    )
    to_full_min: int | None = Field(
        None, description="Minutes until full at the average current; null where none flows."
    )
    manufactured: date | None = Field(None, description="Day of manufacture.")
    serial: int | None = Field(None, description="Serial number.")
    maker: str | None = Field(None, description="Name of the maker.")
    device: str | None = Field(None, description="Name of the device.")
    chemistry: str | None = Field(None, description="Chemistry as its chip names it.")
    version: str | None = Field(None, description="Version of the specification that it follows.")
    cells_v: list[float | None] = Field(
        [], description="Volts of its groups from the negative end, as far as it tells them, V; null: not read."
    )
    status: list[Status] = Field([], description="State flags that are set.")
    alarms: list[Alarm] = Field([], description="Alarm flags that are set.")
    error: ErrorCode | None = Field(None, description="Its error code.")
    mode: list[Mode] = Field([], description="Mode flags that are set.")
    assumed: list[Literal["no_scale", "capacities_in_ah"]] = Field(
        [], description="What was taken as the specification has it, because its word was not read."
    )
    contradictions: list[Contradiction] = Field([], description="What cannot be true, or not both.")
    unreadable: list[str] = Field([], description="Numbers of words that did not come, came wrong, or mean nothing.")
    raw: dict[str, str] = Field({}, description="Words and blocks beyond the standard, as they came.")

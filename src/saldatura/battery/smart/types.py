"""What a reading of registers is asked with, and what it says."""

import re
from datetime import date
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from saldatura.battery.meter import Meter
from saldatura.battery.quantities import MOST_READINGS, AmpHours, ChemistryKey, Reading, Series, Value
from saldatura.battery.smart import words as said

_NUMBER = re.compile(r"(?:0x)?[0-9a-f]{1,2}", re.IGNORECASE | re.ASCII)
_HEX = re.compile(r"(?:[0-9a-f]{2})*", re.IGNORECASE | re.ASCII)
# A block has 32 bytes at the most (SMBus 1.1, 5.5.7).
LONGEST_BLOCK = 32


def _register(key: str) -> str:
    if not _NUMBER.fullmatch(key):
        raise ValueError(said.no_register(key[:20]))
    return f"0x{int(key, 16):02x}"


def _block(text: str) -> str:
    plain = re.sub(r"[\s:-]", "", text).lower()
    if not _HEX.fullmatch(plain) or len(plain) > 2 * LONGEST_BLOCK:
        raise ValueError(said.NO_BLOCK)
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
            raise ValueError(said.NOTHING_READ)
        return self


class Contradiction(Value):
    """Two things that cannot both be true, or one that cannot be: which, in a sentence, and the group where it is one's."""

    kind: ContradictionKind
    because: str
    group: int | None = None


class RegistersSay(Value):
    """What the words say, in units of their own; a field that was not read, or whose word means nothing, is null.

    `assumed`: what had to be taken as the specification has it, because its word was not read. `raw`: words beyond the standard, as they came.
    """

    voltage_v: float | None = None
    current_a: float | None = Field(None, description="Signed: charging is positive.")
    average_current_a: float | None = None
    temperature_c: float | None = None
    relative_soc: float | None = None
    absolute_soc: float | None = None
    remaining_ah: float | None = None
    remaining_wh: float | None = None
    full_ah: float | None = None
    full_wh: float | None = None
    design_ah: float | None = None
    design_wh: float | None = None
    design_v: float | None = None
    soh: float | None = Field(None, description="Full over design capacity.")
    cycles: int | None = None
    max_error: float | None = None
    charging_v: float | None = None
    charging_a: float | None = None
    to_empty_min: int | None = None
    to_full_min: int | None = None
    manufactured: date | None = None
    serial: int | None = None
    maker: str | None = None
    device: str | None = None
    chemistry: str | None = None
    version: str | None = None
    cells_v: list[float | None] = []
    status: list[Status] = []
    alarms: list[Alarm] = []
    error: ErrorCode | None = None
    mode: list[Mode] = []
    assumed: list[Literal["no_scale", "capacities_in_ah"]] = []
    contradictions: list[Contradiction] = []
    unreadable: list[str] = []
    raw: dict[str, str] = {}

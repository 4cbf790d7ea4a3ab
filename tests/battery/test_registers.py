"""Registers of a smart pack against dumps written from the specification by hand: units, signs, scales, dates, codes, and what cannot be."""

import struct
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.smart.pec import block_pec, pec, word_pec
from saldatura.battery.smart.registers import registers
from saldatura.battery.smart.types import RegistersRequest, RegistersSay


def say(
    words: dict[int, int | None] | None = None, blocks: dict[int, bytes] | None = None, **more: object
) -> RegistersSay:
    return registers(
        RegistersRequest.model_validate(
            {
                "words": {f"0x{n:02X}": w for n, w in (words or {}).items()},
                "blocks": {f"0x{n:02x}": b.hex() for n, b in (blocks or {}).items()},
                **more,
            }
        )
    )


def signed(milliamps: int) -> int:
    (word,) = struct.unpack("<H", struct.pack("<h", milliamps))
    return int(word)


def kinds(said: RegistersSay) -> set[str]:
    return {c.kind for c in said.contradictions}


# A 3S pack of 3.6 Ah, written down from the specification: 12.31 V, 0.5 A out, 25.05 °C, 61 %, 210 cycles, made on 2021-03-07.
SOUND: dict[int, int | None] = {
    0x03: 0x0000, 0x08: 2982, 0x09: 12_310, 0x0A: signed(-500), 0x0B: signed(-480), 0x0C: 2, 0x0D: 61, 0x0E: 57, 0x0F: 2050, 0x10: 3384,
    0x12: 246, 0x13: 65_535, 0x14: 1800, 0x15: 12_600, 0x16: 0x00C0, 0x17: 210, 0x18: 3600, 0x19: 10_950, 0x1A: 0x0031,
    0x1B: (2021 - 1980) * 512 + 3 * 32 + 7, 0x1C: 4711, 0x3C: 0, 0x3D: 4100, 0x3E: 4104, 0x3F: 4106,
}  # fmt: skip
NAMES = {0x20: b"Weinberg", 0x21: b"CT-3S", 0x22: b"LION"}


def test_a_sound_pack_is_told_in_its_own_units_and_contradicts_nothing() -> None:
    said = say(SOUND, NAMES, chemistry="nmc", series=3, labelled_ah=3.6, age_years=5.5, today="2026-12-01")
    assert (said.voltage_v, said.current_a, said.average_current_a) == (12.31, -0.5, -0.48)
    assert said.temperature_c == pytest.approx(25.05)
    assert (said.relative_soc, said.absolute_soc, said.max_error) == (0.61, 0.57, 0.02)
    assert (said.remaining_ah, said.full_ah, said.design_ah, said.design_v) == (2.05, 3.384, 3.6, 10.95)
    assert said.soh == pytest.approx(0.94)
    assert (said.charging_v, said.charging_a, said.to_empty_min, said.to_full_min) == (12.6, 1.8, 246, None)
    assert (said.cycles, said.serial, said.manufactured) == (210, 4711, date(2021, 3, 7))
    assert (said.maker, said.device, said.chemistry, said.version) == ("Weinberg", "CT-3S", "LION", "1.1 with PEC")
    assert said.cells_v == [4.106, 4.104, 4.1]
    assert (said.status, said.alarms, said.error, said.mode) == (["initialized", "discharging"], [], "ok", [])
    assert (said.remaining_wh, said.assumed, said.contradictions, said.unreadable, said.raw) == (None, [], [], [], {})


def test_the_contract_s_own_request() -> None:
    said = say({0x09: 11_843, 0x0A: 65_036}, {0x22: b"LION"})
    assert (said.voltage_v, said.current_a, said.chemistry, said.cells_v) == (11.843, -0.5, "LION", [])
    assert said.remaining_ah is said.relative_soc is said.error is None


def test_capacities_are_in_ten_milliwatt_hours_where_the_mode_says_so() -> None:
    said = say({**SOUND, 0x03: 0x8000, 0x0F: 2190, 0x10: 3650, 0x18: 3942})
    assert (said.remaining_wh, said.full_wh, said.design_wh) == (21.9, 36.5, 39.42)
    assert said.remaining_ah is said.full_ah is said.design_ah is None
    assert said.mode == ["capacity_in_wh"]
    assert said.soh == pytest.approx(36.5 / 39.42, abs=1e-4)


@pytest.mark.parametrize("volt_scale", range(4))
@pytest.mark.parametrize("amp_scale", range(4))
def test_scales_multiply_volts_and_amps_and_never_the_cells(volt_scale: int, amp_scale: int) -> None:
    spec = amp_scale << 12 | volt_scale << 8 | 0x21
    said = say({0x1A: spec, 0x09: 4200, 0x19: 3700, 0x0A: signed(-15), 0x0F: 18, 0x10: 36, 0x3F: 4100, 0x03: 0})
    assert said.voltage_v == pytest.approx(4.2 * 10**volt_scale)
    assert said.design_v == pytest.approx(3.7 * 10**volt_scale)
    assert said.current_a == pytest.approx(-0.015 * 10**amp_scale)
    assert said.full_ah == pytest.approx(0.036 * 10**amp_scale)
    assert said.cells_v[0] == 4.1


@pytest.mark.parametrize(
    ("bit", "status", "alarm"),
    [
        (15, None, "over_charged"), (14, None, "terminate_charge"), (12, None, "over_temperature"), (11, None, "terminate_discharge"),
        (9, None, "remaining_capacity"), (8, None, "remaining_time"), (7, "initialized", None), (6, "discharging", None),
        (5, "fully_charged", None), (4, "fully_discharged", None), (13, None, None), (10, None, None),
    ],
)  # fmt: skip
def test_each_bit_of_the_status_is_its_own(bit: int, status: str | None, alarm: str | None) -> None:
    said = say({0x16: 1 << bit})
    assert said.status == ([status] if status else [])
    assert said.alarms == ([alarm] if alarm else [])
    assert said.error == "ok"


@pytest.mark.parametrize(
    ("code", "error"),
    [(0, "ok"), (1, "busy"), (2, "reserved"), (3, "unsupported"), (4, "access_denied"), (5, "over_underflow"), (6, "bad_size"), (7, "unknown"), (9, "unknown")],
)  # fmt: skip
def test_each_error_code_is_its_own(code: int, error: str) -> None:
    assert say({0x16: code}).error == error


@pytest.mark.parametrize("constant", [0x14, 0x15])
def test_a_charger_without_a_limit_is_no_figure(constant: int) -> None:
    said = say({constant: 65_535})
    assert said.charging_v is said.charging_a is None
    assert said.contradictions == []


CASES: list[tuple[str, dict[int, int | None], dict[str, object]]] = [
    # "cells add up to 0.9 V more than the pack says"
    ("cells_do_not_add_up", {0x09: 11_410}, {}),
    ("cells_do_not_add_up", {0x09: 13_200}, {"series": 3}),
    # "says 95 % full and 300 of 3,600 mAh"
    ("charge_against_capacities", {0x0D: 95, 0x0F: 300, 0x10: 3600, 0x0E: 8}, {}),
    ("absolute_against_design", {0x0E: 90}, {}),
    ("remaining_over_full", {0x0F: 3600, 0x10: 3384, 0x0D: 100, 0x0E: 100}, {}),
    ("full_far_over_design", {0x10: 5000, 0x0F: 3050, 0x0E: 85}, {}),
    ("flags_against_charge", {0x16: 0x00E0}, {}),
    ("flags_against_charge", {0x16: 0x00D0}, {}),
    ("stopped_though_charged", {0x16: 0x08C0}, {}),
    ("flags_against_current", {0x0A: 600}, {}),
    ("flags_against_current", {0x16: 0x0080}, {}),
    ("charge_against_volts", {0x0A: 0, 0x16: 0x80, 0x0D: 8, 0x0F: 270, 0x0E: 8}, {"chemistry": "nmc"}),
    ("voltage_against_meter", {}, {"series": 3, "readings": [{"kind": "group", "group": g, "volts": 3.7} for g in (1, 2, 3)]}),
    ("cell_against_meter", {}, {"series": 3, "readings": [{"kind": "group", "group": g, "volts": v} for g, v in ((1, 4.106), (2, 4.104), (3, 3.9))]}),
    ("design_against_label", {}, {"labelled_ah": 5.2}),
    ("impossible_date", {0x1B: 0}, {}),
    ("impossible_date", {0x1B: 41 * 512 + 13 * 32 + 7}, {}),
    ("impossible_date", {0x1B: 41 * 512 + 2 * 32 + 30}, {}),
    ("date_against_age", {}, {"age_years": 1.0, "today": "2026-12-01"}),
    ("date_against_age", {0x1B: 51 * 512 + 3 * 32 + 7}, {"today": "2026-12-01"}),
    ("few_cycles_for_age", {0x17: 2}, {"age_years": 6.0}),
    ("impossible_value", {0x08: 0}, {}),
    ("impossible_value", {0x0D: 140}, {}),
    ("impossible_value", {0x3E: 9000}, {}),
    ("healthy_but_no_current", {}, {"gives_current": False}),
    ("answers_only_fed", {}, {"answers_unpowered": False}),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "words", "beside"), CASES)
def test_each_contradiction_is_told_and_no_other(kind: str, words: dict, beside: dict) -> None:
    said = say({**SOUND, **words}, NAMES, **beside)
    assert kind in kinds(said)
    # A wrong full capacity or charge is seen from more than one side; nothing else is.
    near = {
        "charge_against_capacities",
        "absolute_against_design",
        "remaining_over_full",
        "full_far_over_design",
        "charge_against_volts",
    }
    assert kinds(said) - {kind} <= (near if kind in near else {"flags_against_charge"} if kind.startswith("flags") else {"voltage_against_meter", "cell_against_meter"} if "meter" in kind else set())  # fmt: skip
    assert all(c.because.endswith(".") for c in said.contradictions)


def test_the_cell_that_a_meter_reads_otherwise_is_named() -> None:
    read = [{"kind": "group", "group": g, "volts": v} for g, v in ((1, 4.106), (2, 4.104), (3, 3.9))]
    said = say(SOUND, series=3, readings=read)
    assert [c.group for c in said.contradictions if c.kind == "cell_against_meter"] == [3]


@pytest.mark.parametrize("hole", [0x3F, 0x3E, 0x3D])
def test_a_cell_that_did_not_come_is_a_hole_and_no_contradiction(hole: int) -> None:
    said = say({**SOUND, hole: None})
    assert f"0x{hole:02x}" in said.unreadable
    assert kinds(said) == set()
    assert sum(v is not None for v in said.cells_v) == 2


def test_four_cells_of_a_pack_of_six_are_not_added_up() -> None:
    words: dict[int, int | None] = {0x09: 24_600, 0x19: 22_200, 0x3F: 4100, 0x3E: 4100, 0x3D: 4100, 0x3C: 4100}
    assert kinds(say(words)) == set()
    assert kinds(say(words, series=6)) == set()


def test_a_dead_top_cell_is_nought_and_not_absent_where_the_groups_are_known() -> None:
    words: dict[int, int | None] = {0x3F: 4100, 0x3E: 4100, 0x3D: 0, 0x3C: 0, 0x09: 8200}
    assert say(words, series=3).cells_v == [4.1, 4.1, 0.0]
    assert say(words).cells_v == [4.1, 4.1]


def test_the_error_code_is_the_published_one() -> None:
    # The check value of CRC-8 with polynomial 07 (x⁸ + x² + x + 1), from nothing, over the digits 1 to 9.
    assert pec(b"123456789") == 0xF4

    # Bit by bit, as a division on paper.
    def divided(data: bytes) -> int:
        remainder = int.from_bytes(data, "big") << 8
        for shift in range(8 * len(data) - 1, -1, -1):
            if remainder >> (shift + 8) & 1:
                remainder ^= 0x107 << shift
        return remainder

    assert word_pec(0x09, 0x2E43) == divided(bytes([0x16, 0x09, 0x17, 0x43, 0x2E]))
    assert block_pec(0x22, b"LION") == divided(bytes([0x16, 0x22, 0x17, 4]) + b"LION")


def test_a_word_with_a_wrong_code_is_not_used_and_said() -> None:
    good = word_pec(0x09, 12_310)
    right = say({0x09: 12_310}, {0x22: b"LION"}, pec={"0x09": good, "0x22": block_pec(0x22, b"LION")})
    assert (right.voltage_v, right.chemistry, kinds(right)) == (12.31, "LION", set())
    for bit in range(8):
        wrong = say({0x09: 12_310, 0x0D: 50}, pec={"0x09": good ^ 1 << bit})
        assert (wrong.voltage_v, wrong.relative_soc, wrong.unreadable) == (None, 0.5, ["0x09"])
        assert kinds(wrong) == {"pec_wrong"}


def test_what_is_beyond_the_standard_is_kept_raw() -> None:
    said = say({0x51: 0x0400, 0x46: 7}, {0x70: b"\x01\x02", 0x23: b"\xff"})
    assert said.raw == {"0x23": "ff", "0x46": "0x0007", "0x51": "0x0400", "0x70": "0102"}
    assert said.contradictions == []


@given(
    st.dictionaries(st.integers(0, 255), st.one_of(st.none(), st.integers(0, 65_535)), min_size=1, max_size=40),
    st.dictionaries(st.sampled_from([0x20, 0x21, 0x22, 0x23, 0x70]), st.binary(max_size=32), max_size=3),
    st.sampled_from([None, "nmc", "lfp", "nimh"]),
    st.sampled_from([None, 1, 3, 6]),
)
def test_any_words_are_answered_and_nothing_is_made_up(
    words: dict, blocks: dict, chemistry: str | None, series: int | None
) -> None:
    said = say(words, blocks, chemistry=chemistry, series=series, today="2026-12-01", age_years=4.0)
    for number, fields in {
        0x09: ["voltage_v"],
        0x0A: ["current_a"],
        0x08: ["temperature_c"],
        0x17: ["cycles"],
        0x10: ["full_ah", "full_wh"],
    }.items():
        values = [getattr(said, field) for field in fields]
        assert any(v is not None for v in values) == (words.get(number) is not None)
    assert len(said.cells_v) <= 4
    for key in said.raw:
        assert int(key, 16) in {*words, *blocks}
    for number, cell in ((0x3F, 0), (0x3E, 1), (0x3D, 2), (0x3C, 3)):
        if len(said.cells_v) > cell and said.cells_v[cell] is not None:
            assert said.cells_v[cell] == round(words[number] / 1000, 3)

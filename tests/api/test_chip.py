"""The chip of a smart pack over HTTP: read on the simulated bus with each of its faults, out of a text, beside the meter; never written."""

import random

import pytest

from saldatura.battery.smart.pec import word_pec
from saldatura.instruments import smart_bus
from saldatura.instruments.smart_bus import NoAnswer, read_chip
from tests.api.conftest import Api, only_line
from tests.refusing import code_of

PACK = {"chemistry": "nmc", "series": 3, "parallel": 1, "rated_ah": 2.5, "load_a": 5.0}


def taken_in(api: Api, **intake: object) -> int:
    return api.take_in(intake={"customer": "Row team Z", "pack_name": "Test pack", "pack": PACK, **intake})


def smart(api: Api, **chip: object) -> int:
    job = taken_in(api)
    assert api.post(f"/api/jobs/{job}/virtual", {"soc": [0.6], "chip": chip, "seed": 3})[0] == 201
    return job


def read(api: Api, job: int, **more: object) -> tuple[int, dict]:
    return api.post(f"/api/jobs/{job}/registers", {"bus": "simulated", **more})


def last(api: Api, job: int) -> dict:
    return api.get(f"/api/jobs/{job}/registers")[0]


def kinds(api: Api, job: int) -> set[str]:
    return {c["kind"] for c in last(api, job)["says"]["contradictions"]}


def test_a_sound_chip_is_read_and_agrees_with_pack_and_meter(api: Api) -> None:
    job = smart(api, cycles=88, made="2024-05-06", learned=0.9)
    api.read_groups(job, [3.85, 3.85, 3.85])
    assert api.get(f"/api/jobs/{job}/buses")["buses"][0]["path"] == "simulated"
    assert read(api, job)[0] == 201
    says = last(api, job)["says"]
    assert (says["cycles"], says["manufactured"], says["design_ah"], says["soh"]) == (88, "2024-05-06", 2.5, 0.9)
    assert says["relative_soc"] == pytest.approx(0.6, abs=0.02)
    assert says["voltage_v"] == pytest.approx(sum(says["cells_v"]), abs=0.01)
    assert kinds(api, job) <= {
        "voltage_against_meter",
        "cell_against_meter",
    }  # the readings above were typed, not measured
    lines = {line["number"]: line for line in last(api, job)["words"]}
    assert lines["0x3c"]["raw"] is None
    assert lines["0x17"]["says"] == "88 cycles"
    assert "Simulated: Its chip says" in api.get(f"/api/jobs/{job}")["assessment"]["measures"]["all"][-1]["says"]


def test_one_that_answers_only_while_fed_is_silent_until_then_and_judged(api: Api) -> None:
    job = smart(api, faults=[{"kind": "silent_until_fed"}])
    status, said = read(api, job)
    assert status == 409
    assert code_of(said) == "no_chip_answers"
    assert api.get(f"/api/jobs/{job}/registers") == []

    def supply_lost() -> float:
        causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
        return sum(c["probability"] for c in causes if c["cause"] == "board_supply")

    before = supply_lost()
    assert read(api, job, fed=True, silent_unfed=True)[0] == 201
    assert "answers_only_fed" in kinds(api, job)
    assert supply_lost() > 3 * before


def test_noise_on_the_wires_is_asked_again_and_no_wrong_word_is_used(api: Api) -> None:
    job = smart(api, cycles=88, faults=[{"kind": "pec_errors", "size": 2}])
    assert read(api, job)[0] == 201
    says = last(api, job)["says"]
    assert says["cycles"] == 88
    assert "pec_wrong" not in kinds(api, job)
    worst = smart(api, cycles=88, faults=[{"kind": "pec_errors", "size": 1}])
    assert read(api, worst)[0] == 201
    says = last(api, worst)["says"]
    assert says["cycles"] is says["voltage_v"] is None
    assert "pec_wrong" in kinds(api, worst)


def test_one_at_another_address_is_found_next_door(api: Api) -> None:
    job = smart(api, address=0x0C)
    assert read(api, job)[0] == 409
    found = api.post(f"/api/jobs/{job}/registers/near", {"bus": "simulated"})[1]
    assert found["answering"] == [0x0C]
    assert read(api, job, address=0x0C)[0] == 201


def test_a_current_word_that_stands_still_shows_beside_a_load(api: Api) -> None:
    job = smart(api, faults=[{"kind": "frozen_word", "number": 0x0A}])
    watch = f"/api/jobs/{job}/registers/watch"
    first = api.post(watch, {"bus": "simulated"})[1]
    assert (first["current_a"], first["against"]) == (0.0, [])
    api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"on": True, "amps": 3.0}})
    with api.socket(f"/api/jobs/{job}/stream") as socket:
        for _ in range(20):
            socket.receive_text()
            now = api.post(watch, {"bus": "simulated"})[1]
            if now["beside_a"]:
                break
    assert now["beside_a"] == pytest.approx(-3.0, abs=0.05)
    assert now["current_a"] == 0.0
    assert len(now["against"]) == 1
    api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"on": False}})
    assert api.get(f"/api/jobs/{job}/registers") == []


def test_a_text_is_looked_at_and_kept_by_a_hand(api: Api) -> None:
    job = taken_in(api, age_years=6)
    text = "0x09 0x3016\n0x0d 0x005f\n0x0f 0x012c\n0x10 0x0e10\n0x18 0x0e10\n0x17 0x0002\n0x16 0x00c0\n0x3d --"
    status, found = api.post(f"/api/jobs/{job}/registers/text", {"text": text})
    assert status == 200
    told = {c["kind"] for c in found["says"]["contradictions"]}
    # 95 % full and 300 of 3600 mAh; designed for 3.6 Ah under a label of 2.5; two cycles in six years.
    assert {"charge_against_capacities", "design_against_label", "few_cycles_for_age"} <= told
    assert api.get(f"/api/jobs/{job}/registers") == []
    assert api.post(f"/api/jobs/{job}/measures", found["measure"])[0] == 201
    assert kinds(api, job) == told
    for bad, field in (("hello", "text"), ("0x09 70000", "0x09"), ("0x09 1184\n0x0a 1200", "base")):
        status, said = api.post(f"/api/jobs/{job}/registers/text", {"text": bad})
        assert (status, only_line(said)[0]) == (422, field)


def test_other_cells_make_what_the_chip_said_of_the_old_ones_no_evidence(api: Api) -> None:
    job = taken_in(api)
    words = {"0x09": 11_400, "0x0d": 50, "0x10": 2400, "0x18": 2500, "0x17": 120}
    assert api.post(f"/api/jobs/{job}/measures", {"kind": "registers_read", "words": words, "by": "text"})[0] == 201
    assert len(api.get(f"/api/jobs/{job}/registers")) == 1
    left = {"group": 2, "because": "weak", "by": "Ilka", "agreed_with": "the customer"}
    status, said = api.post(f"/api/jobs/{job}/left-out", left)
    assert status == 201, said
    assert api.get(f"/api/jobs/{job}/registers") == []


def test_gates_hold(api: Api) -> None:
    real = taken_in(api)
    for bus, status in (("/dev/i2c-99", 422), ("simulated", 422), ("/dev/sda", 422), ("", 422)):
        assert read(api, real, bus=bus)[0] == status, bus
    simulated = smart(api)
    assert read(api, simulated, bus="/dev/i2c-1")[0] == 409
    assert read(api, simulated, address=0x80)[0] == 422
    assert api.post(f"/api/jobs/{simulated}/measures", {"kind": "registers_read", "by": "bus"})[0] == 422
    plain = taken_in(api)
    api.post(f"/api/jobs/{plain}/virtual", {"soc": [0.5]})
    assert read(api, plain)[0] == 409
    api.post(
        f"/api/jobs/{plain}/safety",
        {"swollen": True, "leaking": False, "hot": False, "wet": False, "crushed": False, "smell": False},
    )
    assert read(api, plain)[0] == 409


def test_this_machines_own_bus_is_never_read(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    job = taken_in(api)
    own = smart_bus.BusHere(path="/dev/i2c-0", name="memory", own=True)
    monkeypatch.setattr(smart_bus, "buses", lambda: [own])
    monkeypatch.setattr(smart_bus, "KernelBus", lambda path: pytest.fail("it was opened"))
    assert read(api, job, bus="/dev/i2c-0")[0] == 409
    assert api.post(f"/api/jobs/{job}/registers/near", {"bus": "/dev/i2c-0"})[0] == 409


class Wires:
    """Two wires by hand, apart from the program's own bus: a chip that answers some words, with or without codes, and noise."""

    def __init__(self, words: dict[int, int], codes: bool, seed: int, noise: float) -> None:
        self.words, self.codes, self.noise = words, codes, noise
        self.random = random.Random(seed)
        self.written: list[bytes] = []

    def transfer(self, address: int, write: bytes, read: int) -> bytes:
        self.written.append(write)
        if address != 0x0B or write[0] not in self.words:
            raise NoAnswer
        word = self.words[write[0]]
        answer = bytearray([word & 0xFF, word >> 8, word_pec(write[0], word) if self.codes else 0xFF])
        if self.random.random() < self.noise:
            answer[self.random.randrange(2)] ^= 1 << self.random.randrange(8)
        return bytes(answer)[:read]


@pytest.mark.parametrize("seed", range(20))
def test_what_is_read_is_what_was_answered_and_only_numbers_are_ever_written(seed: int) -> None:
    words = {0x1A: 0x31, 0x03: 0, 0x09: 11_411, 0x0D: 42, 0x17: 9, 0x3F: 3801}
    wires = Wires(words, True, seed, 0.3)
    came = read_chip(wires)
    for key, word in came.words.items():
        number = int(key, 16)
        right = word is not None and came.pec.get(key) == word_pec(number, word)
        assert word is None or not right or word == words[number]
    assert all(len(w) == 1 for w in wires.written)
    plain = Wires({**words, 0x1A: 0x21}, False, seed, 0.0)
    quiet = read_chip(plain)
    assert quiet.pec == {}
    assert {int(k, 16): w for k, w in quiet.words.items() if w is not None} == plain.words


@pytest.mark.parametrize(
    ("contacts", "pair", "kinds_"),
    [
        # (as it is, through 10 kΩ to 3.3 V): two open drains, a 10 kΩ thermistor, the string's volts, one held low.
        ({"C": (0.0, 3.29), "D": (0.02, 3.27), "T": (0.0, 1.65), "P": (11.4, None), "E": (0.0, 0.02)}, ["C", "D"], ["data", "data", "resistor", "power", "held_low"]),
        ({"1": (3.28, None), "2": (3.29, None)}, ["1", "2"], ["data", "data"]),
        ({"1": (0.0, 3.3), "2": (0.0, 3.3), "3": (0.0, 3.3)}, [], ["data"] * 3),
        ({"1": (0.0, 1.1), "2": (None, None)}, [], ["resistor", "not_read"]),
    ],
)  # fmt: skip
def test_the_two_data_wires_among_contacts(api: Api, contacts: dict, pair: list[str], kinds_: list[str]) -> None:
    body = {"contacts": [{"contact": name, "idle_v": a, "pulled_v": b} for name, (a, b) in contacts.items()]}
    status, found = api.post("/api/measures/data-pair", body)
    assert status == 200
    assert found["pair"] == pair
    assert [c["kind"] for c in found["contacts"]] == kinds_
    if "T" in contacts:
        # 1.65 of 3.3 V through 10 kΩ is 10 kΩ.
        assert next(c["ohm"] for c in found["contacts"] if c["contact"] == "T") == pytest.approx(10_000, rel=0.01)


def gauge(api: Api, job: int) -> dict:
    return next(t for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"] if t["name"] == "gauge")


@pytest.mark.parametrize(("measured", "outcome"), [(2.35, "pass"), (1.7, "not_yet")])
def test_prove_holds_the_gauge_against_the_measured_capacity_and_tells_the_learn_cycle(
    api: Api, measured: float, outcome: str
) -> None:
    job = taken_in(api)
    plan = f"/api/jobs/{job}/proof-plan"
    assert all(t["name"] != "gauge" for t in api.get(plan)["tests"])
    words = {"0x10": 2400, "0x18": 2500, "0x17": 120, "0x09": 11_400}
    assert api.post(f"/api/jobs/{job}/measures", {"kind": "registers_read", "words": words, "by": "text"})[0] == 201
    assert gauge(api, job)["outcome"] == "not_done"
    told = {
        "kind": "capacity",
        "source": "tester",
        "ah": measured,
        "wh": measured * 10.8,
        "seconds": 3600,
        "mean_a": measured,
        "end_v": 9.0,
    }
    assert api.post(f"/api/jobs/{job}/measures", told)[0] == 201
    test = gauge(api, job)
    assert (test["outcome"], test["due"]) == (outcome, False)
    assert ("learn" in test["because"]) == (outcome == "not_yet")
    # Nothing is held up by a gauge that counts wrong, and the paper says what the chip said.
    assert api.get(plan)["outcome"] != "fail"
    said = [m["says"] for m in api.get(f"/api/jobs/{job}")["assessment"]["measures"]["all"]]
    assert any("2.4 of 2.5 Ah when full, 120 cycles" in line for line in said)


def test_what_the_chip_counted_before_a_charge_is_no_witness_of_the_charge_since(api: Api) -> None:
    job = taken_in(api)
    api.read_groups(job, [3.6, 3.6, 3.6])
    words = {
        "0x09": 10_800,
        "0x0d": 20,
        "0x0f": 480,
        "0x10": 2400,
        "0x3f": 3600,
        "0x3e": 3600,
        "0x3d": 3600,
        "0x3c": 0,
        "0x0a": 0,
    }
    assert api.post(f"/api/jobs/{job}/measures", {"kind": "registers_read", "words": words, "by": "text"})[0] == 201
    assert kinds(api, job) == set()

    def lost() -> float:
        causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
        return sum(c["probability"] for c in causes if c["cause"] == "gauge_lost")

    before = lost()
    for group in (1, 2, 3):
        run = api.post(f"/api/jobs/{job}/charges", {"group": group})[1]["facts"]["charges"][-1]["id"]
        status, said = api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "finished", "volts": 4.15})
        assert status == 200, said
    # 20 % then and 4.15 V now: the pack was charged between, and nothing of that is the chip's fault.
    assert kinds(api, job) == set()
    assert lost() <= before + 0.05


def test_another_board_has_another_chip(api: Api) -> None:
    job = taken_in(api)
    words = {"0x09": 11_400, "0x0d": 50, "0x10": 2400, "0x18": 2500, "0x17": 120}
    assert api.post(f"/api/jobs/{job}/measures", {"kind": "registers_read", "words": words, "by": "text"})[0] == 201
    assert len(api.get(f"/api/jobs/{job}/registers")) == 1
    work = {"did": "replaced_part", "place": {"kind": "board"}, "by": "Ilka", "board": {"make": "own", "lacks": []}}
    status, said = api.post(f"/api/jobs/{job}/work", work)
    assert status == 201, said
    assert api.get(f"/api/jobs/{job}/registers") == []
    assert all(t["name"] != "gauge" for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"])
    # What was measured stays on record, with its day.
    assert any("120 cycles" in m["says"] for m in api.get(f"/api/jobs/{job}")["assessment"]["measures"]["all"])

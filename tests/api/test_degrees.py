"""Sentences have their temperatures in the unit of who reads them; what is recorded has them in °C."""

import re

from tests.api.conftest import Api

IN_F = {"X-Saldatura-Degrees": "F"}
# A warm pack at 40 °C, which no lithium pack is charged at or above 45: 10 kΩ at 25 °C, B 3435.
WARM = {"kind": "thermistor", "ohm": 5760, "r25_ohm": 10000, "b_k": 3435, "ambient_c": 22.0}


def temperatures(text: str) -> list[tuple[float, str]]:
    return [(float(number), unit) for number, unit in re.findall(r"([\d.]+) (°[CF])", text)]


def test_a_sentence_is_said_in_the_readers_degrees(api: Api) -> None:
    asked = api.client.post("/api/measures/sensor", json=WARM).json()
    in_f = api.client.post("/api/measures/sensor", json=WARM, headers=IN_F).json()
    celsius, fahrenheit = temperatures(asked["says"]), temperatures(in_f["says"])
    assert {unit for _, unit in celsius} == {"°C"}
    assert {unit for _, unit in fahrenheit} == {"°F"}
    for (c, _), (f, _) in zip(celsius, fahrenheit, strict=True):
        assert abs(c * 1.8 + 32 - f) <= 0.6  # both are rounded
    assert asked["celsius"] == in_f["celsius"]


def test_windows_with_two_units_each_keep_their_own(api: Api) -> None:
    """What is worked out once for a job is not said to the one in the other's unit."""
    job = api.take_in()
    measure = {"kind": "sensor", "sensor": {"ohm": 5760.0, "ambient_c": 22.0}}
    kept = api.client.post(f"/api/jobs/{job}/measures", json=measure, headers=IN_F)
    assert kept.status_code == 201, kept.text

    def units(**headers: str) -> set[str]:
        return {unit for _, unit in temperatures(api.client.get(f"/api/jobs/{job}", headers=headers).text)}

    assert units() == {"°C"}
    assert units(**IN_F) == {"°F"}
    assert units() == {"°C"}
    # A page that has it in the other unit has not got this.
    held = api.client.get(f"/api/jobs/{job}").headers["etag"]
    assert api.client.get(f"/api/jobs/{job}", headers={"If-None-Match": held}).status_code == 304
    assert api.client.get(f"/api/jobs/{job}", headers={"If-None-Match": held, **IN_F}).status_code == 200
    assert "°F" not in api.client.get(f"/api/jobs/{job}/export").text

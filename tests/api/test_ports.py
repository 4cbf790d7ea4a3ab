"""Ports over HTTP: listed without being opened, tried one speed at a time where somebody chose one, and a meter taught from there."""

from collections.abc import Iterator

import pytest

from tests.api.conftest import Api, only_line, until
from tests.api.test_driven_supply import Supply
from tests.serial_bench import Plugged


@pytest.fixture
def practice(api: Api) -> Iterator[Api]:
    api.post("/api/ports/practice", {"plugged": True})
    yield api
    api.post("/api/ports/practice", {"plugged": False})


def port_of(api: Api, serial: str) -> dict:
    return next(p for p in api.get("/api/ports")["ports"] if p["serial"] == serial)


def test_listing_opens_no_port(api: Api) -> None:
    device = Plugged(hears=lambda line: line)
    try:
        for _ in range(3):
            assert port_of(api, device.serial)["instrument"] is None
        assert device.lines == []
    finally:
        device.unplug()


def test_a_port_is_tried_at_one_speed_and_says_what_speaks_there(api: Api) -> None:
    supply = Supply()
    asked = Plugged(
        hears=lambda line: (supply.handle(line.decode()) or "").encode() + b"\r", ends=b"\r", baud=19200, serial="ASKED"
    )
    streams = Plugged(says=lambda: b"  4.112 V DC\r\n", baud=2400, serial="STREAMS", every_s=0.1)
    try:
        wrong = api.post("/api/ports/try", {"path": asked.path, "baud": 9600})[1]
        assert wrong["speaks"] is None
        # Its answer may come late on a busy machine: then it is asked again.
        found = until(lambda: (f := api.post("/api/ports/try", {"path": asked.path, "baud": 19200})[1])["speaks"] and f)
        assert (found["speaks"], found["ends"]) == ("scpi", "cr")
        assert "bench supply" in found["identity"]
        assert set(asked.lines) <= {b"*IDN?"} or all(b"*IDN?" in line for line in asked.lines)
        wrong = api.post("/api/ports/try", {"path": streams.path, "baud": 9600})[1]
        assert (wrong["speaks"], wrong["noise"]) == (None, True)
        found = api.post("/api/ports/try", {"path": streams.path, "baud": 2400})[1]
        assert found["speaks"] == "lines"
        assert found["lines"][-1]["value"] == 4.112
        assert streams.lines == []
    finally:
        asked.unplug()
        streams.unplug()


def test_only_a_port_of_the_list_is_tried_and_none_that_an_instrument_is_entered_at(api: Api) -> None:
    for path in ("/dev/sda", "/dev/pts/99999", "/etc/passwd", ""):
        assert api.post("/api/ports/try", {"path": path})[0] == 422
    device = Plugged(says=lambda: b"1.0 V\n")
    try:
        body = {"kind": "meter", "name": "hand meter", "speaks": "lines", "address": device.address.model_dump()}
        assert api.post("/api/instruments", body)[0] == 201
        status, said = api.post("/api/ports/try", {"path": device.path})
        assert status == 409
        assert "hand meter" in str(said)
        assert port_of(api, device.serial)["instrument"] == "hand meter"
    finally:
        device.unplug()


def test_the_practice_meter_is_taught_and_its_values_are_taken_from_then_on(practice: Api) -> None:
    api = practice
    port = port_of(api, "practice-meter")
    address = {"path": port["path"], "serial": port["serial"], "baud": 9600}
    body = {"kind": "meter", "name": "hand meter", "speaks": "lines", "address": address}
    status, listed = api.post("/api/instruments", body)
    assert status == 201
    number = listed[-1]["entered"]["id"]
    lines = f"/api/instruments/{number}/lines"

    def now() -> dict:
        return next(i["now"] for i in api.get("/api/instruments") if i["entered"]["id"] == number)

    def shows(**knob: object) -> None:
        api.post("/api/ports/practice/meter", knob)
        until(lambda: any(h["age_s"] < 1 for h in api.get(lines)["lines"]), 10)

    shows(knob="volts", at_leads=3.87)
    until(lambda: (now()["live"] or {}).get("volts") == 3.87, 10)
    assert now()["steady"] is None
    assert api.post(f"/api/instruments/{number}/teach", {"means": "hold"})[1]["understood"] is False
    assert api.post(f"/api/instruments/{number}/teach", {"means": "volts", "shows": 3.5})[1]["understood"] is False
    assert api.post(f"/api/instruments/{number}/teach", {"means": "volts", "shows": 3.87})[1]["understood"] is True
    shows(knob="volts", at_leads=3.87, hold=True)
    found = api.post(f"/api/instruments/{number}/teach", {"means": "hold"})[1]
    assert (found["understood"], found["words"]["hold"]) == (True, ["FRZ"])
    until(lambda: now()["live"] == dict.fromkeys(now()["live"]), 10)
    shows(knob="ohm", at_leads=None)
    assert api.post(f"/api/instruments/{number}/teach", {"means": "ohm"})[1]["understood"] is True
    shows(knob="volts", at_leads=3.91)
    until(lambda: (now()["steady"] or {}).get("volts") == 3.91, 15)
    # Its plug pulled and put in elsewhere: the same meter, found by its number.
    api.post("/api/ports/practice", {"plugged": False})
    until(lambda: now()["live"] is None, 10)
    api.post("/api/ports/practice", {"plugged": True})
    until(lambda: (now()["live"] or {}).get("volts") == 3.91, 20)


def test_what_is_asked_is_not_taught(practice: Api) -> None:
    port = port_of(practice, "practice-supply")
    body = {"kind": "supply", "name": "supply", "address": {"path": port["path"], "serial": port["serial"]}}
    status, listed = practice.post("/api/instruments", body)
    assert status == 201
    number = listed[-1]["entered"]["id"]
    assert practice.post(f"/api/instruments/{number}/teach", {"means": "volts", "shows": 1.0})[0] == 409
    # It sits on a cell of its own: no real pack is charged by it.
    status, said = practice.post(f"/api/instruments/{number}/use", {"drives": True, "by": "Ilka"})
    assert (status, only_line(said)[0]) == (422, "drives")
    assert practice.post("/api/instruments/999/teach", {"means": "volts", "shows": 1.0})[0] == 422


def test_a_thermometer_that_was_not_taught_guards_nothing(api: Api) -> None:
    shown = {"text": b"  24.5 C\r\n"}
    device = Plugged(says=lambda: shown["text"], every_s=0.1)
    try:
        body = {"kind": "thermometer", "name": "probe", "speaks": "lines", "address": device.address.model_dump()}
        number = api.post("/api/instruments", body)[1][-1]["entered"]["id"]
        hub = api.client.app.state.hub  # type: ignore[attr-defined]
        job = api.take_in()

        def warm() -> float:
            api.get("/api/instruments")
            return float(hub.outputs.warmth(job))

        until(lambda: (api.get("/api/instruments")[0]["now"]["live"] or {}).get("celsius") == [24.5], 10)
        assert warm() != warm()  # nan
        teach = f"/api/instruments/{number}/teach"
        assert api.post(teach, {"means": "celsius", "shows": 31.0})[1]["understood"] is False
        assert api.post(teach, {"means": "celsius", "shows": 24.5})[1]["understood"] is True
        shown["text"] = b"  24.5 C H\r\n"
        assert api.post(teach, {"means": "hold"})[1]["understood"] is True
        assert api.get("/api/instruments")[0]["now"]["trusted"] is True
        assert warm() != warm()
        shown["text"] = b"  29.0 C\r\n"
        until(lambda: warm() == 29.0, 10)
    finally:
        device.unplug()

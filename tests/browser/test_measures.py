"""More than voltages, on screen; and a long run typed by keyboard alone."""

import math
from typing import Any

import httpx
import pytest
from playwright.sync_api import Page, expect

from running import PATIENT_S
from tests.api.conftest import job_body

FINISHED, PUMP = 1, 9


def test_two_sets_a_sensor_a_path_and_a_file_each_say_what_they_tell(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{FINISHED}/measures")
    # Group 4 was levelled between its two rest sets, some 0.38 V up.
    expect(page.get_by_text("Group 4 rose by 0.3")).to_be_visible()
    page.goto(f"{demo}/jobs/{PUMP}/measures?of=sensor")
    at_freezing = 10_000 * math.exp(3950 * (1 / 273.15 - 1 / 298.15))
    page.get_by_label("Reads, Ω").fill(f"{at_freezing:.0f}")
    page.get_by_label("B, K").fill("3950")
    expect(page.get_by_text("implausible.")).to_be_visible()
    expect(page.get_by_text("0.0 °C is 22 K colder")).to_be_visible()
    page.get_by_role("button", name="Record in the job").click()
    expect(page.locator(".kept li").first).to_contain_text("22 K colder")

    page.get_by_role("link", name="power path").click()
    page.get_by_label("The string has, V").fill("50.2")
    page.get_by_label("between the switches").fill("50,1")
    page.get_by_label("after the switches").fill("0.2")
    expect(page.get_by_text("charge switch. A switch is judged by its gate")).to_be_visible()
    # Its gate counts for the switch that the path names: the path is kept with it.
    page.get_by_role("button", name="Read its gate").click()
    expect(page.get_by_label("Gate to source of the switch, V")).to_be_focused()
    page.keyboard.type("8,4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_be_hidden()
    expect(page.locator(".kept li").first).to_contain_text("charge switch")
    judged = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{PUMP}/judgement").text
    assert "gate stands 8.4 V from its source: it is driven" in judged
    page.get_by_role("button", name="a chain of your own").click()
    page.get_by_role("button", name="leave after the fuse out").click()
    page.get_by_label("part 1").fill("thermal cut-out")
    page.get_by_label("node 1").fill("behind the cut-out")
    page.get_by_role("button", name="Read this chain").click()
    page.get_by_label("behind the cut-out").fill("0")
    expect(page.get_by_text("before “behind the cut-out”: thermal cut-out")).to_be_visible()

    page.get_by_role("link", name="capacity").click()
    csv = "time;volt;amp\n0;54,0;0\n10;53,0;6\n3600;42,0;6\n"
    page.locator("input[type=file]").set_input_files({"name": "t.csv", "mimeType": "text/csv", "buffer": csv.encode()})
    # 6 A for an hour, less the ramp of the first ten seconds.
    expect(page.get_by_text(f"{6 - 30 / 3600:.2f} Ah")).to_be_visible()
    page.get_by_role("button", name="Record in the job").click()
    expect(page.locator(".kept li").first).to_contain_text("50 % of the rated 12 Ah")
    wrong: Any = {"name": "x.csv", "mimeType": "text/csv", "buffer": b"time;volt\n0;4\n1;4\n"}
    page.locator("input[type=file]").set_input_files(wrong)
    expect(page.get_by_role("alert")).to_contain_text("no column for amps")

    page.get_by_role("link", name="resistance").click()
    field = page.get_by_label("At 1 kHz, mΩ")
    for typed in ("3,5", "3.4", "7.9", "3.6"):
        field.fill(typed)
        field.press("Enter")
        expect(field).to_have_value("")
    expect(page.get_by_role("row", name="3 7.9")).to_contain_text("at once: a joint")
    field.fill("ten")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("type a number such as 12")
    expect(field).to_have_value("ten")


def test_a_step_is_logged_on_the_stand_in_load(page: Page, demo: str) -> None:
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=job_body()).json()["facts"]["id"]
    spec = {"soc": [0.6], "seed": 4, "resistance_ohm": 0.05, "with_board": False}
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual", json=spec).raise_for_status()
    httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}/virtual/clock", json={"speed": 3}).raise_for_status()
    page.goto(f"{demo}/jobs/{job}/measures?of=resistance")
    page.get_by_label("Load, A").fill("4")
    page.get_by_role("button", name="Log a step").click()
    expect(page.locator(".kept li")).to_contain_text("Group 1")
    [kept] = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["assessment"]["measures"]["all"]
    # 50 mΩ a group after 10 s, and what strips, the slow branch and the charge taken out add.
    assert kept["step"]["step_a"] == pytest.approx(4, abs=0.1)
    assert kept["step"]["ten_s_ohm"] == pytest.approx(0.05, rel=0.15)
    # How soon the first value came is the machine's doing: it is the resistance at once only where it came soon.
    first_s, at_once = kept["step"]["first_s"], kept["step"]["at_once_ohm"]
    assert (at_once is not None) == (first_s <= 1.0)
    assert (at_once or 0.0) < kept["step"]["end_ohm"]


def test_fourteen_taps_are_typed_in_without_a_mouse(page: Page, demo: str) -> None:
    job = httpx.post(timeout=PATIENT_S, url=f"{demo}/api/jobs", json=job_body(series=14)).json()["facts"]["id"]
    page.goto(f"{demo}/jobs/{job}/probe")
    page.locator(".entry input").wait_for()
    heading = page.get_by_role("heading", level=1)
    for tap in range(1, 15):
        expect(heading).to_have_text(f"Tap {tap} against tap 0")
        page.keyboard.type(f"{tap * 3.91:.2f}", delay=60)
        page.keyboard.press("Enter")
    expect(heading).to_have_text("Pack terminals")
    taken = httpx.get(timeout=PATIENT_S, url=f"{demo}/api/jobs/{job}").json()["assessment"]["probe"]["reconciled"][
        "groups"
    ]
    assert [g["volts"] for g in taken] == pytest.approx([3.91] * 14, abs=0.02)


def test_the_readings_are_drawn_on_the_string_and_a_line_is_read_again(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/4/probe")
    page.get_by_role("button", name="drawn on the string").click()
    expect(page).to_have_url(f"{demo}/jobs/4/probe?view=string")
    figure = page.get_by_role("group", name="Readings drawn on the string")
    expect(figure.get_by_role("button")).to_have_count(6)
    expect(page.locator(".ladder")).to_contain_text("Tap 3 floats")
    figure.get_by_role("button", name="group 4:").press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Group 4")

"""A pack of strings side by side over HTTP: read by its own taps, parted, levelled, joined within 50 mV, and signed as what it is."""

import io
from uuid import uuid4

import pytest
from pypdf import PdfReader

from saldatura.battery.verdict.words import stops as stops_words
from tests.api.conftest import SAFE, Api, job_body, only_line
from tests.saying import says

GAUGE = {"chemistry": "li_oxide", "series": 8, "strings": 2, "parallel": 1, "rated_ah": 2.6, "load_a": 2.0}


def taken(api: Api) -> int:
    return api.take_in(intake={**job_body()["intake"], "pack": GAUGE}, safety=SAFE)


def read(api: Api, job: int, point: dict, volts: float, purpose: str = "probe") -> tuple[int, dict]:
    body = {"purpose": purpose, "point": point, "volts": volts, "key": str(uuid4())}
    status, answer = api.post(f"/api/jobs/{job}/readings", body)
    # Sent again, it is the same reading.
    assert api.post(f"/api/jobs/{job}/readings", body)[0] == status
    return status, answer


def by_taps(api: Api, job: int, volts: list[float], purpose: str = "probe") -> None:
    for base in (0, 4):
        for tap in range(base + 1, base + 5):
            status, answer = read(api, job, {"kind": "tap", "tap": tap}, round(sum(volts[base:tap]), 3), purpose)
            assert status == 201, answer


def test_each_string_is_read_by_its_own_taps_and_every_page_speaks_of_two_of_four(api: Api) -> None:
    job = taken(api)
    view = api.get(f"/api/jobs/{job}")
    now = view["now"]
    assert (now["label"], now["rated_ah"], now["full_v"]) == ("2 × 4S1P", 5.2, pytest.approx(16.8))
    run = view["assessment"]["blank_runs"]["taps"]
    assert [p["words"] for p in run][3:6] == [
        "tap 4 against tap 0",
        "tap 5 against the minus of string B",
        "tap 6 against the minus of string B",
    ]
    # Each point of the run expects what one string holds, also at the terminals.
    assert max(p["expected_high_v"] for p in run) <= 4 * 4.2 * 1.03
    volts = [3.81, 3.81, 3.81, 3.81, 3.91, 3.51, 3.91, 3.91]
    by_taps(api, job, volts)
    assert read(api, job, {"kind": "pack"}, 15.24)[0] == 201
    field, said = only_line(read(api, job, {"kind": "span", "from_tap": 3, "to_tap": 6}, 11.3)[1])
    assert field == "point"
    assert "string" in said
    view = api.get(f"/api/jobs/{job}")
    held = view["assessment"]["groups"]
    assert [g["volts"] for g in held] == pytest.approx(volts, abs=0.002)
    verdict = view["assessment"]["probe"]["verdict"]
    assert verdict["kind"] == "imbalanced"
    assert says(stops_words.strings_share, [*verdict["reasons"], *verdict["more"]])
    assert view["assessment"]["probe"]["reconciled"]["sum_check"]["agrees"]
    assert view["now"]["string_v"] == pytest.approx([15.24, 15.24], abs=0.01)
    judged = api.get(f"/api/jobs/{job}/judgement")
    lead = judged["judgement"]["causes"][0]
    assert lead["cause"] == "imbalance"
    assert set(lead["at"]["groups"]) <= {5, 6, 7, 8}
    assert view["assessment"]["hazard"]["highest_v"] == pytest.approx(16.8)


def test_strings_are_joined_only_where_they_stand_together(api: Api) -> None:
    job = taken(api)
    by_taps(api, job, [3.80] * 4 + [3.70] * 4)
    said = {"joined": True, "by": "Ilka", "apart_v": [0.01]}
    url = f"/api/jobs/{job}/strings"
    assert only_line(api.post(url, said)[1])[0] == "strings"
    assert api.post(url, {"joined": False, "by": "Ilka"})[0] == 201
    assert api.get(f"/api/jobs/{job}")["now"]["parted"] is True
    # Parted, nothing is read, charged, run or signed as a whole.
    assert only_line(read(api, job, {"kind": "pack"}, 15.2)[1])[0] == "strings"
    run = {"kind": "load_run", "on": "load", "amps": 2.0, "seconds": 600, "ended_by": "hand"}
    assert only_line(api.post(f"/api/jobs/{job}/measures", run)[1])[0] == "strings"
    signed = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "as agreed"})
    assert only_line(signed[1])[0] == "strings"
    assert not any(
        p["point"]["kind"] == "pack" for p in api.get(f"/api/jobs/{job}")["assessment"]["probe"]["runs"]["taps"]
    )
    # What the meter reads between them decides, and the groups must not contradict it.
    for apart, field in (([], "apart_v"), ([0.01, 0.02], "apart_v"), ([-0.4], "apart_v"), ([0.02], "apart_v")):
        status, answer = api.post(url, {**said, "apart_v": apart})
        assert status in (409, 422)
        assert only_line(answer)[0] == field
    assert only_line(api.post(url, said)[1])[0] == "apart_v"
    # Charged by itself, string B comes up; read again, they go together.
    again = api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})
    assert again[0] == 201
    by_taps(api, job, [3.80] * 4 + [3.80, 3.80, 3.80, 3.79])
    # Taken back now, the parting would join them past the meter: what was read since stands against it.
    parting = next(d["fact"] for d in api.get(f"/api/jobs/{job}")["assessment"]["done"] if "parted" in d["says"])
    assert api.post(f"/api/jobs/{job}/taken-back", {"fact": parting, "reason": "a slip"})[0] == 409
    assert api.get(f"/api/jobs/{job}")["now"]["parted"] is True
    assert api.post(url, {**said, "apart_v": [-0.012]})[0] == 201
    view = api.get(f"/api/jobs/{job}")
    assert view["now"]["parted"] is False
    assert any("12 mV apart" in d["says"] for d in view["assessment"]["done"])


def test_a_group_charged_in_joined_strings_leaves_none_known_and_one_of_parted_ones_only_itself(api: Api) -> None:
    for parted in (False, True):
        job = taken(api)
        by_taps(api, job, [3.80] * 4 + [3.80, 3.60, 3.80, 3.80])
        if parted:
            assert api.post(f"/api/jobs/{job}/strings", {"joined": False, "by": "Ilka"})[0] == 201
        status, answer = api.post(f"/api/jobs/{job}/charges", {"group": 6, "target": "match", "current_a": 1.0})
        assert status == 201, answer
        run = api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["id"]
        end = {"outcome": "finished", "volts": 3.8}
        status, answer = api.post(f"/api/jobs/{job}/charges/{run}/end", end)
        assert status == 200, answer
        known = [g["volts"] is not None for g in api.get(f"/api/jobs/{job}")["assessment"]["groups"]]
        assert known == ([True] * 8 if parted else [False] * 8)


def test_no_group_of_a_string_is_left_out_and_new_cells_go_in_by_its_list(api: Api) -> None:
    job = taken(api)
    by_taps(api, job, [3.80] * 4 + [3.86, 0.4, 3.86, 3.86])
    out = {"group": 6, "because": "dead", "by": "Ilka", "agreed_with": "the customer"}
    assert only_line(api.post(f"/api/jobs/{job}/left-out", out)[1])[0] == "group"
    plan = api.post(
        f"/api/jobs/{job}/need", {"need": {"load_a": 2}, "prices": {"labour_h": 36, "cell": 5.0, "original": 80}}
    )
    assert plan[0] == 201
    found = api.get(f"/api/jobs/{job}/plan")
    repairs = {r["repair"]: r for r in found["plan"]["repairs"]}
    assert repairs["drop_group"]["ruled_out"]
    # Two strings of new cells hold what the label says of the pack.
    assert repairs["recell"]["usable_ah"] == pytest.approx(5.2, rel=0.12)
    assert repairs["recell"]["cells_needed"] == 8
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "replace_groups", "groups": [6], "by": "Ilka"})[0] == 201
    told = {
        "arrangement": "grid",
        "method": {"by": "solder", "tabs": "nickel", "iron_w": 90},
        "work": "groups",
        "work_groups": [6],
        "cross": [2],
    }
    assert api.post(f"/api/jobs/{job}/block", told)[0] == 201
    block = api.get(f"/api/jobs/{job}/block")
    assert {5, 6} & {n for link in block["map"]["links"] for n in [link["tap"]]} == {5}
    assert block["strips"]["enough"]
    # The load is shared: what the inner strips of one string do not carry those of the other do.
    carried = {
        link: abs(next(g["current_a"] for g in block["strips"]["segments"] if g["segment"].startswith(f"{link} ")))
        for link in ("L1", "L5")
    }
    assert sum(carried.values()) == pytest.approx(2.0, rel=0.01)
    assert max(carried.values()) < 2.0
    work = next(w for w in block["lists"] if w["name"] == "groups")["steps"]
    tie = [s for s in work if s["strings"]]
    assert [s["strings"] for s in tie] == ["parted", "joined"]
    for step in work:
        if step["wants"]:
            for c in block["polarity"]:
                if c["wanted"]:
                    api.post(
                        f"/api/jobs/{job}/polarity",
                        {"cell": c["cell"], "volts": 3.6 if c["expects"] == "positive" else -3.6},
                    )
        volts = step["asks"]["expected_v"] if step["asks"] else None
        body = {"list": "groups", "step": step["key"], "volts": volts, "early": True, "by": "Ilka"}
        if step["strings"] == "joined":
            far = api.post(f"/api/jobs/{job}/ticks", {**body, "volts": 0.3})
            assert api.get(f"/api/jobs/{job}")["now"]["parted"] is True, far
        status, answer = api.post(f"/api/jobs/{job}/ticks", body)
        assert status == 201, answer
        if step["strings"] == "parted":
            assert api.get(f"/api/jobs/{job}")["now"]["parted"] is True
    assert api.get(f"/api/jobs/{job}")["now"]["parted"] is False


def test_its_papers_say_what_it_is(api: Api) -> None:
    job = taken(api)
    volts = [3.80] * 8
    by_taps(api, job, volts)
    read(api, job, {"kind": "pack"}, 15.2)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "read only, as agreed"})[0] == 200
    for paper in ("certificate.pdf", "pack-label.pdf?origin=http://localhost"):
        got = api.client.get(f"/api/jobs/{job}/{paper}")
        assert got.status_code == 200, paper
        text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(got.content)).pages)
        assert "2 × 4S1P" in text
    assert "14.6 V, 76 Wh" in text

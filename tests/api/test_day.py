"""The day over HTTP: planned from facts alone, over the hours, around who is away; promises; numbers; what would be faster."""

import csv
import io
import itertools
import threading
import time
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any

import pytest

from tests.api.conftest import SAFE, Api, day_of, only_line
from tests.conftest import Clock

ICS = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260301T000000Z\r\nDTSTART:20260302T090000Z\r\nDTEND:20260302T110000Z\r\nSUMMARY:Secret errand\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"  # fmt: skip
# A Monday; the hours below are told in the machine's own zone, and tests hold in any.
NOW = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)


def hours(api: Api, *stretches: tuple[float, float], people: int = 1) -> dict:
    """The same hours on every day, as hours after this Monday's eight o'clock UTC."""
    opens = []
    for a, b in stretches:
        begins = (NOW + timedelta(hours=a)).astimezone()
        first = begins.hour * 60 + begins.minute
        last = first + round((b - a) * 60)
        opens += [{"day": d, "from_min": first, "to_min": min(last, 1440)} for d in range(7)]
        # Where it is late then, they go on after midnight.
        if last > 1440:
            opens += [{"day": d, "from_min": 0, "to_min": last - 1440} for d in range(7)]
    status, day = api.post("/api/hours", {"opens": opens, "people": people, "promise_days": 7})
    assert status == 201, day
    return day_of(api)


def at(text: str) -> datetime:
    return datetime.fromisoformat(text)


def charging(api: Api, **more: object) -> int:
    job = api.take_in()
    api.read_groups(job, [3.95, 3.6, 3.95])
    assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", **more})[0] == 201
    return job


def test_an_empty_shop_has_an_empty_day(api: Api) -> None:
    plan = day_of(api)["plan"]
    assert (plan["now"], plan["next"], plan["by_itself"], plan["stuck"], plan["tasks"]) == (None, [], [], [], 0)


def test_hands_never_do_two_things_at_once_and_only_in_the_hours(api: Api) -> None:
    hours(api, (0, 4), (5, 9))
    jobs = [api.take_in(safety=None), api.take_in(), charging(api)]
    day = day_of(api)
    bars = sorted((at(b["from_at"]), at(b["to_at"])) for b in day["plan"]["hands"])
    assert len({b["job_id"] for b in day["plan"]["hands"]} & set(jobs)) == 3
    assert all(b <= c for (_, b), (c, _) in itertools.pairwise(bars))
    windows = [(at(s["from_at"]), at(s["to_at"])) for s in day["attended"]]
    assert all(any(a <= x and y <= b for a, b in windows) for x, y in bars)
    # Two pairs of hands begin two things now.
    double = hours(api, (0, 4), (5, 9), people=2)["plan"]
    assert sorted(at(b["from_at"]) for b in double["hands"])[:2] == [NOW, NOW]


def test_away_is_planned_around_at_once_and_says_what_is_not_safe_to_leave(api: Api, clock: Clock) -> None:
    hours(api, (0, 9))
    job = charging(api)
    api.take_in()
    assert day_of(api)["plan"]["now"] is not None
    until = (clock() + timedelta(hours=3)).isoformat()
    status, away = api.post("/api/presence", {"until": until})
    assert status == 201
    assert away["plan"]["now"] is None
    assert at(away["plan"]["free_from"]) == at(until)
    assert at(away["presence"]["away"]) == at(until)
    # A look at the charge is due while nobody is here, or it is not safe to leave at all.
    assert [(u["job_id"], u["groups"]) for u in away["plan"]["unsafe"]] == [(job, [2])]
    # Back again: the last word holds.
    assert api.post("/api/presence", {"until": clock().isoformat()})[1]["plan"]["now"] is not None
    status, refused = api.post("/api/presence", {"until": (clock() + timedelta(days=200)).isoformat()})
    assert (status, only_line(refused)[0]) == (422, "until")


def test_a_first_charge_after_a_repair_is_not_left_alone(api: Api, clock: Clock) -> None:
    hours(api, (0, 9))
    job = api.take_in()
    api.read_groups(job, [3.95, 3.95, 3.95])
    assert api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})[0] in (200, 201)
    clock.later(minutes=5)
    api.read_groups(job, [3.95, 3.6, 3.95])
    status, answer = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})
    assert status == 201, answer
    day = api.post("/api/presence", {"until": (clock() + timedelta(minutes=20)).isoformat()})[1]
    assert [(u["kind"], u["job_id"]) for u in day["plan"]["unsafe"]] == [("not_safe", job)]
    assert [r["minded"] for r in day["plan"]["by_itself"]] == ["whole"]


def test_a_job_says_why_it_stands_still_and_what_frees_it(api: Api, clock: Clock) -> None:
    asked, held = api.take_in(), api.take_in(safety={**SAFE, "swollen": True})
    assert api.post(f"/api/jobs/{asked}/asked", {"what": "asked", "note": "new cells?"})[0] == 201
    clock.later(hours=2)
    plan = day_of(api)["plan"]
    assert {(s["job_id"], s["hold"]["kind"]) for s in plan["stuck"]} == {(asked, "customer"), (held, "quarantine")}
    assert not {asked, held} & {b["job_id"] for b in plan["hands"]}
    assert api.post(f"/api/jobs/{asked}/asked", {"what": "answered"})[0] == 201
    plan = day_of(api)["plan"]
    assert (plan["now"]["job_id"], plan["now"]["step"]) == (asked, "read")
    assert [s["job_id"] for s in plan["stuck"]] == [held]


def test_a_broken_job_and_a_clock_that_jumps_leave_the_others_in_the_plan(api: Api, clock: Clock) -> None:
    first, second = api.take_in(), charging(api)
    bench: Any = api.client.app.state.bench  # type: ignore[attr-defined]
    view = bench.view
    bench.view = lambda job, *more: 1 / 0 if job == first else view(job, *more)
    day = day_of(api)
    before = day["plan"]["by_itself"][0]["likely"]
    assert len(day["troubles"]) == 1
    assert f"{first:04d}" in day["troubles"][0]
    clock.later(days=3)
    day = day_of(api)
    # Three days on the charge is over, and waits for hands before all else.
    assert (day["plan"]["now"]["job_id"], day["plan"]["now"]["step"]) == (second, "end_charge")
    clock.at -= timedelta(days=3)
    bench.view = view
    back = day_of(api)["plan"]
    assert back["by_itself"][0]["likely"] == before
    # What was signed or put away is in the plan no more.
    assert api.post(f"/api/jobs/{first}/archived", {})[0] in (200, 201)
    assert first not in {b["job_id"] for b in day_of(api)["plan"]["hands"]}


def test_a_channel_that_is_gone_takes_nothing_and_its_work_goes_elsewhere(api: Api, clock: Clock) -> None:
    hours(api, (0, 9))
    for name in ("left", "right"):
        assert api.post("/api/channels", {"name": name, "max_a": 2.0})[0] == 201
    for _ in range(4):
        api.take_in()
    before = {b["channel"] for b in day_of(api)["plan"]["runs"]} - {None}
    assert before == {"left", "right"}
    assert api.post("/api/channels/gone", {"name": "left"})[0] in (200, 201)
    plan = day_of(api)["plan"]
    assert {b["channel"] for b in plan["runs"]} - {None} == {"right"}
    bars = sorted((at(b["from_at"]), at(b["to_at"])) for b in plan["runs"] if b["channel"])
    assert all(b <= c for (_, b), (c, _) in itertools.pairwise(bars))


def test_a_plan_is_the_same_until_something_happens(api: Api, clock: Clock) -> None:
    hours(api, (0, 9))
    for _ in range(4):
        api.take_in()
    charging(api)
    seen = []
    for _ in range(12):
        plan = day_of(api)["plan"]
        seen.append([a["task"] for a in (plan["now"], *plan["next"]) if a])
        clock.later(seconds=25)
    assert all(names == seen[0] for names in seen), "\n".join(map(str, seen))


def test_hours_are_kept_or_refused_with_their_field(api: Api) -> None:
    for wrong, field in (
        ({"opens": [{"day": 7, "from_min": 0, "to_min": 60}]}, "opens.0.day"),
        ({"opens": [{"day": 1, "from_min": 600, "to_min": 540}]}, "opens.0.to_min"),
        ({"people": 0}, "people"),
        ({"promise_days": 0}, "promise_days"),
    ):
        status, answer = api.post("/api/hours", wrong)
        assert (status, only_line(answer)[0]) == (422, field)
    nobody = api.post("/api/hours", {"opens": [], "people": 3})[1]
    assert nobody["hours"] == {"opens": [], "people": 3, "promise_days": 7.0}


def test_a_calendar_file_takes_its_hours_and_nothing_of_what_they_are_for_is_kept(api: Api) -> None:
    hours(api, (0, 9))
    api.take_in()
    answer = api.client.post("/api/calendar/file", params={"name": "mine.ics"}, content=ICS)
    assert answer.status_code == 201, answer.text
    assert [(at(s["from_at"]), at(s["to_at"])) for s in answer.json()["attended"]][:2] == [
        (NOW, NOW + timedelta(hours=1)),
        (NOW + timedelta(hours=3), NOW + timedelta(hours=9)),
    ]
    assert "errand" not in api.client.get("/api/shop/export.zip").text
    assert api.get("/api/calendar")["name"] == "mine.ics"
    assert api.client.post("/api/calendar/file", params={"name": "x"}, content=b"nothing").status_code == 422
    for name in ("\x00", "a\nb", "\ud83d", " "):
        odd = api.client.post("/api/calendar/file", params={"name": name.encode("utf-8", "replace")}, content=ICS)
        assert odd.status_code in (201, 422), (name, odd.text)
    assert api.post("/api/calendar", {"name": "nowhere"})[0] == 422
    assert api.client.post("/api/calendar/file", params={"name": "mine.ics"}, content=ICS).status_code == 201
    # Put away, the hours are whole again.
    assert (
        len([s for s in api.post("/api/calendar", {})[1]["attended"] if at(s["from_at"]) < NOW + timedelta(hours=9)])
        == 1
    )


def test_what_was_promised_of_a_signed_part_is_not_promised_of_the_next(api: Api, clock: Clock, elsewhere: Api) -> None:
    job = _signed(api, clock, late_h=-3)
    clock.later(days=20)
    assert api.post(f"/api/jobs/{job}/reopened", {"by": "Ilka", "reason": "came back"})[0] in (200, 201)
    day = day_of(api)["plan"]
    assert (day["late"], api.get(f"/api/jobs/{job}/promise")["promised"]) == ([], None)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "runs"})[0] == 200
    assert api.get("/api/shop-numbers")["promises"]["made"] == 0
    # A file with a promise that has passed is taken in, and says what it said.
    clock.later(days=400)
    taken = api.take_in()
    ready = (clock() + timedelta(days=2)).isoformat()
    assert api.post(f"/api/jobs/{taken}/promises", {"ready": ready, "by": "Ilka"})[0] == 201
    assert api.post(f"/api/jobs/{taken}/asked", {"what": "asked", "note": "new cells?"})[0] == 201
    clock.later(days=30)
    status, view = elsewhere.post("/api/jobs/import", api.get(f"/api/jobs/{taken}/export"))
    assert status == 201, view
    there = view["facts"]["id"]
    assert at(elsewhere.get(f"/api/jobs/{there}/promise")["promised"]) == at(ready)
    assert [s["hold"]["kind"] for s in day_of(elsewhere)["plan"]["stuck"]] == ["customer"]


class _Serving(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        if self.path == "/drips":
            self.send_response(200)
            self.end_headers()
            for _ in range(80):
                self.wfile.write(b"B")
                time.sleep(0.1)
            return
        if self.path == "/moved":
            self.send_response(302)
            self.send_header("Location", "http://192.0.2.1/away.ics")
            self.end_headers()
            return
        self.send_response(200)
        self.end_headers()
        self.wfile.write(ICS.encode())

    def log_message(self, *_told: object) -> None:
        return


def test_only_calendars_of_this_machine_are_followed(api: Api, tmp_path: Path) -> None:
    hours(api, (0, 9))
    mine = tmp_path / "shop.ics"
    mine.write_text(ICS)
    server = HTTPServer(("127.0.0.1", 0), _Serving)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        port = server.server_port
        for where in (str(mine), f"http://127.0.0.1:{port}/shop.ics"):
            status, day = api.post("/api/calendar", {"name": "shop", "where": where})
            assert status == 201, day
            assert at(day["attended"][1]["from_at"]) == NOW + timedelta(hours=3)
        (tmp_path / "secret.txt").write_text("x")
        (tmp_path / "folder.ics").mkdir()
        refused = [
            "shop.ics", str(tmp_path / "secret.txt"), str(tmp_path / "none.ics"), str(tmp_path / "folder.ics"), "/etc/passwd",
            "http://192.0.2.1/shop.ics", "https://127.0.0.1/shop.ics", "file:///etc/passwd", f"http://127.0.0.1@192.0.2.1:{port}/",
            f"http://127.0.0.1:{port}/moved", f"http://127.0.0.1:{port}/drips", "http://127.0.0.1:1/shop.ics", "http://[::1", "ftp://localhost/x.ics",
        ]  # fmt: skip
        for where in refused:
            status, answer = api.post("/api/calendar", {"name": "shop", "where": where})
            assert (status, only_line(answer)[0]) == (422, "where"), where
    finally:
        server.shutdown()
    # What was followed and is gone keeps what it said, and that it is gone is told.
    assert api.get("/api/calendar")["busy"]


def test_a_promise_is_kept_with_its_chance_and_moves_what_is_done_first(api: Api, clock: Clock) -> None:
    hours(api, (0, 9))
    others = [api.take_in() for _ in range(3)]
    job = api.take_in()
    told = api.get(f"/api/jobs/{job}/promise")
    assert told["early"] < told["ready"]
    assert 0.8 <= told["chance"] < 1
    assert told["promised"] is None
    ends = [at(s["to_at"]) for s in day_of(api)["attended"]]
    assert at(told["ready"]) in ends
    assert api.get("/api/promise")["ready"] >= told["ready"]
    body = {"ready": told["ready"], "chance": told["chance"], "by": "Ilka"}
    assert api.post(f"/api/jobs/{job}/promises", body)[0] == 201
    assert api.get(f"/api/jobs/{job}/promise")["promised"] == told["ready"]
    # Soon, and the plan does it before the others.
    soon = (clock() + timedelta(hours=2)).isoformat()
    assert api.post(f"/api/jobs/{job}/promises", {"ready": soon, "by": "Ilka"})[0] == 201
    plan = day_of(api)["plan"]
    assert plan["now"]["job_id"] == job
    assert [late["job_id"] for late in plan["late"]] in ([], [job])
    assert {a["job_id"] for a in plan["next"]} <= {job, *others}
    for wrong in (clock() - timedelta(hours=1), clock() + timedelta(days=400)):
        status, answer = api.post(f"/api/jobs/{job}/promises", {"ready": wrong.isoformat(), "by": "Ilka"})
        assert (status, only_line(answer)[0]) == (422, "ready")
    assert api.client.get("/api/jobs/999/promise").status_code == 404
    assert "promised to Row team Z" in api.client.get("/api/waiting.ics").text.replace("\r\n ", "")


def _signed(api: Api, clock: Clock, late_h: float | None = None) -> int:
    job = api.take_in()
    if late_h is not None:
        ready = clock() + timedelta(hours=10 - late_h)
        assert (
            api.post(f"/api/jobs/{job}/promises", {"ready": ready.isoformat(), "by": "Ilka", "chance": 0.8})[0] == 201
        )
    clock.later(minutes=5)
    api.read_groups(job, [3.95, 3.95, 3.95])
    clock.later(minutes=10)
    assert api.post(f"/api/jobs/{job}/notes", {"text": "a lead hung by a strand"})[0] == 201
    clock.later(hours=9, minutes=45)
    body = {"by": "Ilka", "reason": "runs", "minutes": 40}
    assert api.post(f"/api/jobs/{job}/sign-off", body)[0] == 200
    return job


def test_numbers_are_what_was_recorded_and_come_as_tables(api: Api, clock: Clock) -> None:
    _signed(api, clock, late_h=4)
    kept = _signed(api, clock, late_h=-3)
    numbers = api.get("/api/shop-numbers")
    assert (numbers["jobs"], numbers["hours"], numbers["cells"]) == (2, 1.3, 12)
    # Six cells of 2 Ah at 3.65 V and 190 Wh/kg each.
    assert numbers["kg"] == pytest.approx(2 * 6 * 2.0 * 3.65 / 190, abs=0.06)
    steps = {s["step"]: s["hours"] for s in numbers["steps"]}
    # Ten minutes to the note each; five until the first reading; the rest of forty was work at the pack.
    assert steps["judge"] == pytest.approx(20 / 60, abs=0.06)
    assert steps["read"] == pytest.approx(10 / 60, abs=0.06)
    assert sum(steps.values()) == pytest.approx(80 / 60, abs=0.1)
    # Less was told than the times of the acts come to: what was told holds, in the hours and in the steps.
    short = api.take_in()
    for _ in range(3):
        clock.later(minutes=15)
        assert api.post(f"/api/jobs/{short}/notes", {"text": "looked again"})[0] == 201
    assert api.post(f"/api/jobs/{short}/sign-off", {"by": "Ilka", "reason": "runs", "minutes": 9})[0] == 200
    after = api.get("/api/shop-numbers")
    assert sum(s["hours"] for s in after["steps"]) == pytest.approx(after["hours"], abs=0.15)
    assert api.post(f"/api/jobs/{short}/reopened", {"by": "Ilka", "reason": "not counted"})[0] in (200, 201)
    told = numbers["promises"]
    assert (told["made"], told["kept"], told["mean_late_h"], told["expected"]) == (2, 1, 4.0, 1.6)
    for table in ("kinds", "steps", "months", "promises"):
        answer = api.client.get("/api/shop-numbers.csv", params={"table": table})
        assert answer.headers["content-type"].startswith("text/csv")
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        assert len(rows) == len(told["broken"] if table == "promises" else numbers[table])
    assert api.client.get("/api/shop-numbers.csv", params={"table": "jobs"}).status_code == 422
    # Opened again it is not signed, and its numbers are gone with it.
    assert api.post(f"/api/jobs/{kept}/reopened", {"by": "Ilka", "reason": "came back"})[0] in (200, 201)
    assert api.get("/api/shop-numbers")["jobs"] == 1


def test_what_would_be_faster_is_told_with_when_it_pays_back(api: Api, clock: Clock) -> None:
    assert api.get("/api/faster")["jobs"] == 0
    _signed(api, clock, late_h=4)
    told = api.get("/api/faster?months=2&what=hands&price=500&late_h_costs=10")
    assert told["jobs"] == 1
    assert {o["what"] for o in told["options"]} == {"hands"}
    assert api.client.get("/api/faster", params={"months": -1}).status_code == 422


def test_groups_that_do_not_charge_yet_come_after_the_one_that_does(api: Api) -> None:
    hours(api, (0, 9))
    assert api.post("/api/channels", {"name": "left", "max_a": 2.0})[0] == 201
    job = api.take_in()
    api.read_groups(job, [3.6, 3.95, 3.62])
    body = {"repair": "level", "groups": [1, 3], "price": 20, "by": "Ilka", "note": "as asked"}
    assert api.post(f"/api/jobs/{job}/accepted", body)[0] in (200, 201)
    plan = day_of(api)["plan"]
    assert plan["now"]["step"] == "charge"
    assert api.post(f"/api/jobs/{job}/charges", {"group": 1, "target": "match"})[0] == 201
    plan = day_of(api)["plan"]
    [run] = plan["by_itself"]
    charges = [b for b in plan["runs"] if b["run"] == "charge" and not b["begun"]]
    assert run["groups"] == [1]
    assert [at(b["from_at"]) >= at(run["likely"]) for b in charges] == [True]

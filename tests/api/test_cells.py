"""The drawer over HTTP: what cells may become, and that none is ever in two places."""

import io
import sqlite3
import threading

import pytest
from pypdf import PdfReader

from saldatura.formats.labels import address
from saldatura.records.bench import Bench
from tests.api.conftest import Api, only_line
from tests.refusing import code_of

KIND = {
    "name": "Colle",
    "size": "18650",
    "chemistry": "nmc",
    "rated_ah": 2.0,
    "discharge_a": 15,
    "ohm": 0.024,
    "price": 4.2,
}
OTHER = {**KIND, "name": "Forra", "chemistry": "lfp"}


@pytest.fixture
def stocked(api: Api) -> Api:
    """Two types; cells a1 to a6 tested and resting together, n1 and n2 new, f1 of another chemistry."""
    for kind in (KIND, OTHER):
        api.post("/api/cells/types", kind)
    api.post("/api/cells", {"type": "Colle", "name": "a", "count": 6, "origin": "reclaimed", "donor": "old shears"})
    api.post("/api/cells", {"type": "Colle", "name": "n", "count": 2, "origin": "new"})
    api.post("/api/cells", {"type": "Forra", "name": "f1", "origin": "new"})
    for k in range(1, 7):
        test(api, f"a{k}", capacity_ah=1.9 - 0.01 * k, dc_ohm=0.03, rest_v=3.70 + 0.001 * k)
    return api


def test(api: Api, name: str, **values: object) -> tuple[int, dict]:
    return api.post(f"/api/cells/of/{name}/tests", values)


test.__test__ = False  # type: ignore[attr-defined]


def standing(api: Api, name: str) -> tuple[str, int | None, int | None]:
    cell = api.client.get(f"/api/cells/of/{name}").json()["cell"]
    return cell["standing"], cell["job"], cell["group"]


def build_in(api: Api, job: int, group: int, *cells: str) -> tuple[int, dict]:
    return api.post(f"/api/jobs/{job}/replaced", {"group": group, "by": "Ilka", "cells": list(cells)})


def test_cells_are_built_in_with_the_job_and_nowhere_else_and_taking_back_frees_them(stocked: Api) -> None:
    job, other = stocked.take_in(), stocked.take_in()
    assert build_in(stocked, job, 2, "a1", "A2")[0] == 201
    assert standing(stocked, "a1") == ("built", job, 2)
    for again in (build_in(stocked, other, 1, "a1", "a3"), build_in(stocked, job, 1, "a1", "a3")):
        status, body = again
        assert (status, only_line(body)[0]) == (409, "place")
        assert f"group 2 of job {job:04d}" in only_line(body)[1]
    # What was refused left nothing behind, neither in the job nor in the drawer.
    assert standing(stocked, "a3") == ("drawer", None, None)
    assert stocked.exported(other, "replaced") == []
    fact = stocked.client.get(f"/api/jobs/{job}").json()["facts"]["last_id"]
    assert stocked.post(f"/api/jobs/{job}/taken-back", {"fact": fact, "reason": "the wrong bay"})[0] == 201
    assert standing(stocked, "a1") == ("held", job, 2)


@pytest.mark.parametrize(
    ("cells", "status", "field", "code"),
    [
        (("a1",), 422, "cells", "wrong_number_of_cells"),
        (("a1", "a1"), 422, "cells", "named_twice"),
        (("a1", "zz"), 422, "cells", "no_such_cell"),
        (("n1", "f1"), 409, "chemistry", "two_chemistries"),
    ],
)
def test_what_does_not_make_a_group_is_refused_in_one_line(
    stocked: Api, cells: tuple[str, ...], status: int, field: str, code: str
) -> None:
    got, body = build_in(stocked, stocked.take_in(), 1, *cells)
    assert (got, only_line(body)[0]) == (status, field)
    assert code_of(body) == code


def test_the_gates_on_cells_hold(stocked: Api) -> None:
    job = stocked.take_in()
    test(stocked, "a1", seen=["dent"])
    status, body = build_in(stocked, job, 1, "a1", "a2")
    assert (status, only_line(body)[0]) == (409, "cell")
    assert code_of(body) == "cell_condemned"
    # Joined at different heights they would level each other through the strip.
    test(stocked, "a3", rest_v=3.95)
    status, body = build_in(stocked, job, 1, "a3", "a2")
    assert (status, only_line(body)[0]) == (409, "together")
    stocked.post("/api/cells", {"type": "Colle", "name": "u1", "origin": "reclaimed"})
    status, body = build_in(stocked, job, 1, "u1", "a2")
    assert code_of(body) == "cell_untested"
    # Scrapped is for good, and nothing is built in past the job.
    assert stocked.post("/api/cells/moves", {"cells": ["a4"], "move": {"to": "scrap", "reason": "fell"}})[0] == 200
    for to in ("drawer", "held"):
        status, body = stocked.post(
            "/api/cells/moves", {"cells": ["a4"], "move": {"to": to, "job": job, "reason": "after all"}}
        )
        assert (status, only_line(body)[0]) == (409, "place"), to
    assert (
        stocked.post("/api/cells/moves", {"cells": ["a5"], "move": {"to": "built", "job": job, "group": 1}})[0] == 422
    )


def test_two_windows_that_want_one_cell_leave_it_in_one_place(stocked: Api) -> None:
    jobs = [stocked.take_in(), stocked.take_in()]
    answers: list[int] = []
    barrier = threading.Barrier(2)

    def window(job: int) -> None:
        barrier.wait()
        answers.append(build_in(stocked, job, 1, "a1", "a2")[0])

    threads = [threading.Thread(target=window, args=(job,)) for job in jobs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answers) == [201, 409]
    kept = [job for job in jobs if stocked.exported(job, "replaced")]
    assert [standing(stocked, name) for name in ("a1", "a2")] == [("built", kept[0], 1)] * 2


def test_the_data_file_itself_keeps_a_cell_from_two_places(stocked: Api) -> None:
    bench: Bench = stocked.client.app.state.bench  # type: ignore[attr-defined]
    cell = bench.cells.cell("a1")[0]
    sql = "INSERT INTO cell_fact (cell_id, kind, at, previous, body) VALUES (?, ?, '2026-01-01', ?, '{}')"
    with bench.db.write() as db:
        db.execute(sql, (cell.id, "cell_moved", cell.place.id))
    # A second place after the same one, one after a test, one after another cell's, one after none, one that came in twice.
    other = bench.cells.cell("a2")[0]
    for row in (
        (cell.id, "cell_moved", cell.place.id),
        (cell.id, "cell_moved", cell.tests[0].id),
        (cell.id, "cell_moved", other.place.id),
        (cell.id, "cell_moved", None),
        (cell.id, "cell_took", None),
    ):
        with pytest.raises(sqlite3.IntegrityError), bench.db.write() as db:
            db.execute(sql, row)


def test_bad_input_is_one_line_and_loses_nothing(stocked: Api) -> None:
    for path, body, field, code in (
        ("/api/cells", {"type": "Colle", "name": "a1"}, "name", "name_taken"),
        ("/api/cells", {"type": "Nobody", "name": "x"}, "type", "no_such_type"),
        ("/api/cells", {"type": "Colle", "name": "x", "price": -1}, "price", "greater_than_equal"),
        ("/api/cells/types", {**KIND, "rated_ah": 0}, "rated_ah", "greater_than_equal"),
        ("/api/cells/of/a1/tests", {}, "body", "nothing_measured"),
        ("/api/cells/look", {"text": "PK\x03\x04rubbish"}, "text", "another_kind_of_file"),
        (
            "/api/cells/import",
            {"text": "cell,ah\na1,1.8\n", "columns": {"cell": 0, "capacity_ah": 7}},
            "columns",
            "no_such_column",
        ),
    ):
        status, answer = stocked.post(path, body)
        assert (status, only_line(answer)[0]) == (422, field), path
        assert code_of(answer) == code
    # A lot of which one name is taken enters none of it.
    assert stocked.post("/api/cells", {"type": "Colle", "name": "a", "count": 3, "first": 5})[0] == 422
    assert stocked.client.get("/api/cells?search=a7").json()["total"] == 0


def test_a_testers_file_is_kept_and_its_columns_are_remembered(stocked: Api) -> None:
    text = "bay;what it gave;ohmic\na1;1,95;0,031\nnew-1;1,90;0,030\n"
    looked = stocked.post("/api/cells/look", {"text": text})[1]
    assert not looked["remembered"]
    columns = {"cell": 0, "capacity_ah": 1, "dc_ohm": 2}
    lot = {"type": "Colle", "name": "x", "origin": "reclaimed"}
    kept = stocked.post("/api/cells/import", {"text": text, "columns": columns, "by": "bay.csv", "enter_as": lot})[1]
    assert (kept["kept"], kept["bad"]) == (2, [])
    assert stocked.client.get("/api/cells/of/new-1").json()["cell"]["capacity_ah"] == 1.9
    assert stocked.client.get("/api/cells/of/a1").json()["cell"]["capacity_ah"] == 1.95
    again = stocked.post("/api/cells/look", {"text": text.replace("a1", "a2")})[1]
    assert again["remembered"]
    assert again["columns"] == columns


def test_the_figure_and_the_pages_show_the_same_cells(stocked: Api) -> None:
    marks = stocked.client.get("/api/cells/figure").json()
    assert len(marks["names"]) == 6
    assert marks["unplaced"] == 3
    inside = [n for n, ah in zip(marks["names"], marks["capacity_ah"], strict=True) if ah >= 1.865]
    page = stocked.client.get("/api/cells", params={"capacity_from": 1.865, "sort": "capacity"}).json()
    assert [cell["name"] for cell in page["cells"]] == ["a1", "a2", "a3"] == sorted(inside)
    second = stocked.client.get("/api/cells", params={"offset": 4, "limit": 3}).json()
    assert (len(second["cells"]), second["total"]) == (3, 9)


def test_labels_carry_their_cells_address_on_any_grid(stocked: Api) -> None:
    url = "/api/cells/labels.pdf?cells=a1&cells=a2&cells=n1&origin=https://bench.local:8750&columns=2&rows=2&first=3"
    reader = PdfReader(io.BytesIO(stocked.client.get(url).content))
    # Two labels are left of the begun sheet, the third begins another.
    assert len(reader.pages) == 2
    assert "a1" in reader.pages[0].extract_text()
    assert "n1" in reader.pages[1].extract_text()
    assert address("https://bench.local", "K 1/2") == "https://bench.local/cells/K%201%2F2"
    for bad, field in (("rows=40&margin_mm=60", "rows"), ("first=800", "first"), ("origin=javascript:x", "origin")):
        answer = stocked.client.get(f"/api/cells/labels.pdf?cells=a1&origin=https://b&{bad}")
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, field)


def test_a_donor_gives_its_sound_groups_with_their_history_and_never_a_lost_one(stocked: Api) -> None:
    job = stocked.take_in()
    stocked.read_groups(job, [3.71, 0.6, 3.70])
    stocked.post(
        f"/api/jobs/{job}/measures",
        {
            "kind": "capacity",
            "source": "bay",
            "group": 1,
            "ah": 3.6,
            "wh": 13.3,
            "seconds": 7200,
            "mean_a": 1.8,
            "end_v": 2.8,
        },
    )
    body = {"groups": [1], "type": "Colle", "name": "D", "by": "Ilka"}
    status, refused = stocked.post(f"/api/jobs/{job}/harvested", {**body, "groups": [1, 2]})
    assert (status, only_line(refused)[0]) == (409, "cells")
    assert stocked.post(f"/api/jobs/{job}/harvested", body)[0] == 201
    cell = stocked.client.get("/api/cells/of/D1-2").json()
    assert (cell["took"]["donor_job"], cell["took"]["donor_group"]) == (job, 1)
    # Half of the group's 3.6 Ah; what it read before that discharge tells nothing of its cells now.
    assert cell["cell"]["capacity_ah"] == pytest.approx(1.8)
    assert cell["cell"]["rest_v"] is None
    assert only_line(stocked.post(f"/api/jobs/{job}/harvested", body)[1])[0] == "groups"
    assert (
        stocked.post(f"/api/jobs/{job}/charges", {"group": 1, "target": "full"})[1]["errors"][0]["field"] == "harvested"
    )

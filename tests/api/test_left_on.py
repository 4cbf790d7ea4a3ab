"""What drives a pack is never forgotten: it stands on the rail, stops by itself where it was told to, and is asked for."""

from saldatura.instruments.hub import InstrumentHub
from tests.api.conftest import Api, only_line


def loaded(api: Api) -> tuple[int, InstrumentHub]:
    job = api.take_in()
    api.post(f"/api/jobs/{job}/virtual", {"soc": [0.7, 0.7, 0.7], "seed": 4})
    api.read_groups(job, [3.9, 3.9, 3.9])
    return job, api.client.app.state.hub  # type: ignore[attr-defined]


def switch(api: Api, job: int, **source: object) -> None:
    assert api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"amps": 4, **source}})[0] == 200


def driving(api: Api) -> list[dict]:
    return api.client.get("/api/waiting").json()["driving"]


def test_a_load_stands_on_the_rail_until_it_is_off_and_one_with_a_time_goes_off_by_itself(api: Api) -> None:
    job, hub = loaded(api)
    assert driving(api) == []
    switch(api, job, on=True)
    [on] = driving(api)
    assert (on["job_id"], on["what"], on["amps"], on["stops_in_s"]) == (job, "electronic load", 4.0, None)
    switch(api, job, on=False)
    assert driving(api) == []
    # A logged step: whatever becomes of the window that began it, twenty seconds are twenty seconds.
    virtual = hub.racks.must(job).virtual
    virtual.set_clock(1, paused=True)
    switch(api, job, on=True, stop_after_s=20)
    before = virtual.sources["load"].ah
    virtual.pass_time(300)
    assert driving(api) == []
    assert abs(virtual.sources["load"].ah - before - 4 * 20 / 3600) < 1e-4


def test_a_set_under_load_wants_the_load_on_from_its_beginning_to_its_last_reading(api: Api) -> None:
    job, _ = loaded(api)
    set_ = {"purpose": "load", "condition": "load", "current_a": 4}
    status, answer = api.post(f"/api/jobs/{job}/sets", set_)
    assert (status, only_line(answer)[0]) == (409, "load")
    switch(api, job, on=True)
    assert api.post(f"/api/jobs/{job}/sets", set_)[0] == 201
    assert api.read(job, {"kind": "group", "group": 1}, 3.8, purpose="load")[0] == 201
    switch(api, job, on=False)
    status, answer = api.read(job, {"kind": "group", "group": 2}, 3.8, purpose="load")
    assert (status, only_line(answer)[0]) == (409, "load")
    # The current of a real pack is the technician's own to know.
    real = api.take_in()
    api.read_groups(real, [3.9, 3.9, 3.9])
    assert api.post(f"/api/jobs/{real}/sets", set_)[0] == 201

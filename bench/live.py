"""Virtual packs and their instruments while they run: what they cost, how fast a page follows, what memory they keep."""

import asyncio
import json
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import psutil
import websockets
from playwright.sync_api import Page

from bench.measure import Figure, percentile
from running import chromium, running
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.instruments.hub import InstrumentHub
from saldatura.instruments.hub.live import Hookup, NewClock
from saldatura.job.facts import Intake, Safety
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.instrument import Source

PACKS, SPEED = 50, 60
NOTHING = Safety(swollen=False, leaking=False, hot=False, wet=False, crushed=False, smell=False)


def figures() -> Iterator[Figure]:
    """CPU of fifty packs, frames and lag of a page, memory at rest and over time."""
    with tempfile.TemporaryDirectory() as folder:
        yield from _fifty_packs(Path(folder) / "fifty.sqlite3")
        data = Path(folder) / "one.sqlite3"
        job = _one_job(data)
        with running("serve", data=data) as address:
            yield from _memory(address, job)
            with chromium() as browser:
                yield from _page(browser.new_page(viewport={"width": 1280, "height": 800}), address, job)


def _intake(pack: Pack) -> Intake:
    return Intake(customer="Bench", pack_name="Bench pack", pack=pack)


def _one_job(data: Path) -> int:
    db = Database(data)
    job = Bench(db).take_in(_intake(Pack(chemistry="nmc", series=14, parallel=5, rated_ah=12.0)), NOTHING).facts.id
    db.close()
    return job


def _fifty_packs(data: Path) -> Iterator[Figure]:
    bench = Bench(Database(data))
    hub = InstrumentHub(bench)
    hub.start()
    pack = Pack(chemistry="nmc", series=13, parallel=4, rated_ah=12.0)
    jobs = [bench.take_in(_intake(pack), NOTHING).facts.id for _ in range(PACKS)]
    for job in jobs:
        hub.racks.make(job, PackSpec(soc=[0.9], seed=job))
        hub.racks.set_clock(job, NewClock(speed=SPEED))
        hub.racks.hook_up(job, Hookup(kind="load", source=Source(on=True, amps=1.0)))
    time.sleep(2)
    polled_before = _read_at(hub, jobs)
    cpu, wall = time.process_time(), time.perf_counter()
    polls = 0
    while time.perf_counter() - wall < 10:
        time.sleep(0.05)
        now = _read_at(hub, jobs)
        polls += now != polled_before
        polled_before = now
    took = time.perf_counter() - wall
    share = (time.process_time() - cpu) / took
    live = [i for job in jobs for i in hub.frame(job).instruments if i.connected]
    hub.stop()
    answering = sum(i.state in ("live", "slow") and i.live is not None for i in live)
    yield Figure(
        f"{PACKS} virtual packs (13S4P) at ×{SPEED}, meter, thermometer and load of each polled {polls / took:.1f} times a "
        f"second, {answering} of {len(live)} answering: cores used",
        f"{share:.2f}",
        "< 0.5 at 5 Hz",
        share < 0.5 and polls / took > 4.5 and answering == len(live) == 3 * PACKS,
    )


def _read_at(hub: InstrumentHub, jobs: list[int]) -> float | None:
    rack = hub.racks.must(jobs[-1])
    return rack.watched["load"].read_at


def _memory(address: str, job: int) -> Iterator[Figure]:
    process = next(p for p in psutil.Process().children() if "serve" in p.cmdline())
    time.sleep(2)
    idle = process.memory_info().rss / 2**20
    yield Figure("Memory of the idle application", f"{idle:.0f} MB", "< 250 MB", idle < 250)
    spec = {"soc": [0.95]}
    httpx.post(f"{address}/api/jobs/{job}/virtual", json=spec).raise_for_status()
    httpx.post(f"{address}/api/jobs/{job}/virtual/clock", json={"speed": 600}).raise_for_status()
    load = {"kind": "load", "source": {"on": True, "amps": 0.2}}
    httpx.post(f"{address}/api/jobs/{job}/virtual/source", json=load).raise_for_status()

    async def stream(seconds: float) -> float:
        async with websockets.connect(f"{address.replace('http', 'ws')}/api/jobs/{job}/stream") as socket:
            end, last = time.monotonic() + seconds, 0.0
            while time.monotonic() < end:
                told = json.loads(await socket.recv())
                last = told["virtual"]["clock"]["clock_s"] if "virtual" in told else last
            return float(last)

    first_s = asyncio.run(stream(10))
    before = process.memory_info().rss / 2**20
    last_s = asyncio.run(stream(45))
    grown = process.memory_info().rss / 2**20 - before
    hours = (last_s - first_s) / 3600
    yield Figure(
        f"Memory grown over {hours:.1f} simulated hours of streaming at ×600", f"{grown:.1f} MB", "< 5 MB", grown < 5
    )


# Frames drawn, and how old the meter's value is when the frame that shows it is drawn.
_WATCH = """() => new Promise(done => {
    const lags = []; let frames = 0; const start = performance.now()
    const out = document.querySelector('[aria-label="stand-in multimeter shows"]')
    new MutationObserver(() => { const read = window.readAt; requestAnimationFrame(() => lags.push(Date.now() - read * 1000)) })
        .observe(out, { subtree: true, childList: true, characterData: true })
    const tick = () => { frames++; performance.now() - start < 8000 ? requestAnimationFrame(tick)
        : done({ fps: frames / (performance.now() - start) * 1000, lags }) }
    requestAnimationFrame(tick) })"""
_TAP = """(() => { const Real = WebSocket; window.WebSocket = class extends Real { constructor(...a) { super(...a)
    this.addEventListener('message', e => { const told = JSON.parse(e.data), of = told.instruments?.find(i => i.kind === 'meter')
        if (of) window.readAt = told.at - of.age_s }) } } })()"""


def _page(page: Page, address: str, job: int) -> Iterator[Figure]:
    httpx.post(f"{address}/api/jobs/{job}/virtual/clock", json={"speed": 60}).raise_for_status()
    page.add_init_script(_TAP)
    page.goto(f"{address}/jobs/{job}/instruments")
    probes = {"at": "taps", "black": 0, "red": 14}
    httpx.post(f"{address}/api/jobs/{job}/virtual/probes", json=probes).raise_for_status()
    page.get_by_label("stand-in multimeter shows").wait_for()
    page.wait_for_timeout(1500)
    seen = page.evaluate(_WATCH)
    lag = percentile(seen["lags"], 0.95)
    yield Figure("A page on a live meter: frames a second", f"{seen['fps']:.0f}", "≥ 58", seen["fps"] >= 58)
    yield Figure(
        "The same: age of a value when drawn, 95th percentile",
        f"{lag:.0f} ms (n {len(seen['lags'])})",
        "< 200 ms",
        lag < 200,
    )

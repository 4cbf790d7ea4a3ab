"""Any size: twenty thousand jobs, a very large job, ten windows at once, a window left alone, and the start."""

import asyncio
import itertools
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import psutil
import websockets
from playwright.sync_api import CDPSession, Page

from bench.measure import Figure, at_most, milliseconds
from bench.seed import PACK, SAFE, seed
from running import chromium, running
from saldatura.battery.quantities import GroupPoint
from saldatura.job.facts import EndOfCharge, Intake, NewCharge, NewReading, NewSet
from saldatura.records.bench import Bench
from saldatura.records.database import Database

JOBS, SETS, READINGS, CHARGES = 20_000, 40, 2000, 200
WINDOWS = 10


def figures() -> Iterator[Figure]:
    """What many jobs, a large one, many windows and an idle one cost, and how soon the program is ready."""
    yield from _start()
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "many.sqlite3"
        db = seed(data, JOBS)
        large = _large_job(db)
        db.close()
        with running("serve", data=data) as address:
            with httpx.Client(base_url=address) as client:
                yield from _many(client)
                yield from _large(client, large)
            yield from _windows(address, large)
            with chromium() as browser:
                yield from _idle(browser.new_page(viewport={"width": 1280, "height": 800}), address)


def _start() -> Iterator[Figure]:
    taken = []
    for _ in range(7):
        with tempfile.TemporaryDirectory() as folder:
            env = {**os.environ, "SALDATURA_DATA": f"{folder}/own.sqlite3"}
            began = time.perf_counter()
            process = subprocess.Popen(
                [sys.executable, "-m", "saldatura", "serve", "--port", "0"],
                stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=env,
            )  # fmt: skip
            assert process.stdout is not None
            address = process.stdout.readline().split()[3]
            while True:
                try:
                    httpx.get(f"{address}api/health").raise_for_status()
                    break
                except httpx.TransportError:
                    time.sleep(0.005)
            taken.append(time.perf_counter() - began)
            process.kill()
            process.wait()
    found = statistics.median(taken)
    yield Figure("Start of the server to its first answer, median of seven", f"{found:.2f} s", "< 1.2 s", found < 1.2)


def _large_job(db: Database) -> int:
    at = datetime.now(UTC) - timedelta(days=90)

    def now() -> datetime:
        nonlocal at
        at += timedelta(seconds=4)
        return at

    bench, keys = Bench(db, now), itertools.count()
    job = bench.take_in(Intake(customer="Large", pack_name="Much read", pack=PACK), SAFE).facts.id
    for number in range(SETS):
        bench.add(job, NewSet(purpose="prove" if number % 4 == 3 else "probe", rest_since=at))
        for _ in range(READINGS // SETS // 12 + 1):
            for group in range(1, 13):
                volts = 3.6 if group == 5 else 3.9
                key = f"large-{next(keys):06d}"
                purpose = "prove" if number % 4 == 3 else "probe"
                bench.add(job, NewReading(purpose=purpose, point=GroupPoint(group=group), volts=volts, key=key))
        for _ in range(CHARGES // SETS):
            run = bench.add(job, NewCharge(group=5, target="match")).facts.charges[-1].id
            bench.add(job, EndOfCharge(charge=run, outcome="stopped", volts=3.6))
    return job


def _many(client: httpx.Client) -> Iterator[Figure]:
    process = next(p for p in psutil.Process().children() if "serve" in p.cmdline())
    waits = len(client.get("/api/waiting").json()["waiting"])
    # The day's first calls open a reader for each thread, and the program warms up beside them.
    for _ in range(60):
        client.get("/api/waiting").raise_for_status()
    time.sleep(2)
    before, calls = process.cpu_times(), 300
    for _ in range(calls):
        client.get("/api/waiting").raise_for_status()
    after = process.cpu_times()
    each = (after.user + after.system - before.user - before.system) / calls * 1000
    what = f"What waits, {JOBS:,} jobs of which {JOBS // 4:,} proved, {waits} charging or resting: CPU a call"
    yield Figure(what, f"{each:.1f} ms", "< 10 ms", each < 10)
    yield at_most(
        f"List jobs, {JOBS:,} of them: 95th percentile",
        milliseconds(lambda: client.get("/api/jobs", params={"limit": 60}).raise_for_status(), 100), 0.95, 50,
    )  # fmt: skip
    yield at_most(
        f"Find a serial among {JOBS:,}: 95th percentile",
        milliseconds(lambda: client.get("/api/jobs", params={"search": "VS-04321"}).raise_for_status(), 50), 0.95, 50,
    )  # fmt: skip


def _large(client: httpx.Client, job: int) -> Iterator[Figure]:
    keys = itertools.count()

    def read() -> None:
        n = next(keys)
        body = {"point": {"kind": "group", "group": n % 12 + 1}, "volts": 3.9, "key": f"bench-{n:06d}"}
        client.post(f"/api/jobs/{job}/readings", json=body).raise_for_status()

    client.post(f"/api/jobs/{job}/sets", json={"purpose": "probe"}).raise_for_status()
    what = f"A job with {READINGS:,} readings, {SETS} sets, {CHARGES} charges"
    yield at_most(f"{what}: store a reading, 95th percentile", milliseconds(read, 60), 0.95, 35)
    size = len(client.get(f"/api/jobs/{job}").content) / 1024
    yield Figure(f"{what}: its view", f"{size:.0f} KiB", "< 150 KiB", size < 150)
    tag = client.get(f"/api/jobs/{job}").headers["etag"]
    again = milliseconds(lambda: client.get(f"/api/jobs/{job}", headers={"if-none-match": tag}), 60)
    yield at_most(f"{what}: its view once more, unchanged, 95th percentile", again, 0.95, 20)


def _windows(address: str, job: int) -> Iterator[Figure]:
    """Ten windows on one job: how long until every one of them has been told of a reading and has fetched it."""

    async def follow() -> list[float]:
        taken = []
        async with httpx.AsyncClient(base_url=address) as client:
            sockets = [await websockets.connect(f"{address.replace('http', 'ws')}/api/changes") for _ in range(WINDOWS)]

            async def window(socket: websockets.ClientConnection) -> None:
                await socket.recv()
                (await client.get(f"/api/jobs/{job}")).raise_for_status()

            for n in range(25):
                body = {"point": {"kind": "group", "group": n % 12 + 1}, "volts": 3.9, "key": f"windows-{n:04d}"}
                began = time.perf_counter()
                told = [asyncio.create_task(window(socket)) for socket in sockets]
                (await client.post(f"/api/jobs/{job}/readings", json=body)).raise_for_status()
                await asyncio.gather(*told)
                taken.append((time.perf_counter() - began) * 1000)
            for socket in sockets:
                await socket.close()
        return taken

    what = f"{WINDOWS} windows on the large job: a reading stored, told to all and fetched by all, 95th percentile"
    yield at_most(what, asyncio.run(follow()), 0.95, 500)


def _bytes(session: CDPSession) -> list[int]:
    got: list[int] = []
    session.on("Network.loadingFinished", lambda e: got.append(int(e["encodedDataLength"])))
    session.on("Network.webSocketFrameReceived", lambda e: got.append(len(e["response"]["payloadData"])))
    session.send("Network.enable")
    return got


def _idle(page: Page, address: str) -> Iterator[Figure]:
    for where, path in (
        ("Today", "/"),
        ("a job", "/jobs/62/probe"),
        ("a job with a virtual pack at rest", "/jobs/74/probe"),
    ):
        if "virtual" in where:
            httpx.post(f"{address}/api/jobs/74/virtual", json={"soc": [0.9]}).raise_for_status()
        got = _bytes(page.context.new_cdp_session(page))
        page.goto(address + path)
        page.wait_for_timeout(4000)
        before = sum(got)
        page.wait_for_timeout(60_000)
        kilo = (sum(got) - before) / 1000
        yield Figure(f"A window left alone on {where}: received in a minute", f"{kilo:.1f} kB", "< 20 kB", kilo < 20)

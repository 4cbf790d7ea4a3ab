"""Many clients at once: how long an act takes, and what the program weighs while it is flooded."""

import contextlib
import io
import secrets
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
from PIL import Image

from bench.floods import large as large_ones
from bench.measure import Figure
from running import started

# As long as a busy bench: of twelve seconds the first instant, in which all twenty begin at once, would be one act in twenty.
SECONDS = 120.0
CLIENTS = 20
SAFE = dict.fromkeys(("swollen", "leaking", "hot", "wet", "crushed", "smell"), False)


def _job(client: httpx.Client) -> int:
    pack = {"chemistry": "nmc", "series": 12, "parallel": 2, "rated_ah": 5.0}
    body = {"intake": {"customer": "Crowd", "pack_name": "Crowd", "pack": pack}, "safety": SAFE}
    return int(client.post("/api/jobs", json=body).raise_for_status().json()["facts"]["id"])


def crowd(url: str, own: bool, seconds: float) -> tuple[list[float], int, int]:
    """Milliseconds of each act, how many failed, and how many acknowledged acts are not there afterwards."""
    with httpx.Client(base_url=url, timeout=30) as first:
        jobs = [_job(first) for _ in range(CLIENTS)] if own else [_job(first)] * CLIENTS
    took: list[float] = []
    kept: list[tuple[int, int]] = []
    failed = [0]
    until = time.monotonic() + seconds

    def work(number: int) -> None:
        rng = np.random.default_rng(number)
        with httpx.Client(base_url=url, timeout=30) as client:
            n = 0
            while time.monotonic() < until:
                n += 1
                group = 1 + n % 12
                body = {"point": {"kind": "group", "group": group}, "volts": 3.9, "key": f"crowd-{number:03d}-{n:05d}"}
                # A fresh set now and then, as the work has it: some fifty readings each.
                if n % (50 if own else 3) == 0 and (own or number == 0):
                    client.post(f"/api/jobs/{jobs[number]}/sets", json={"purpose": "probe"})
                began = time.perf_counter()
                answer = client.post(f"/api/jobs/{jobs[number]}/readings", json=body, params={"sure": True})
                took.append((time.perf_counter() - began) * 1000)
                if answer.status_code == 201:
                    kept.append((jobs[number], n))
                elif answer.status_code == 409:
                    client.post(f"/api/jobs/{jobs[number]}/sets", json={"purpose": "probe"})
                else:
                    failed[0] += 1
                # A hand takes its time between two probes; this one is a quick one.
                time.sleep(float(rng.uniform(0.4, 0.6)))

    threads = [threading.Thread(target=work, args=(n,)) for n in range(CLIENTS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with httpx.Client(base_url=url, timeout=30) as last:
        there = sum(
            sum(f["kind"] == "reading" for f in last.get(f"/api/jobs/{job}/export").json()["job"]["facts"])
            for job in set(jobs)
        )
    return took, failed[0], len(kept) - there


def weighs_mb(pid: int) -> float:
    """Most memory that a process has had, MB, as the kernel counts it."""
    text = Path(f"/proc/{pid}/status").read_text()
    return int(next(line for line in text.splitlines() if line.startswith("VmHWM")).split()[1]) / 1024


def handles(pid: int) -> int:
    """Open files of a process."""
    return len(list(Path(f"/proc/{pid}/fd").iterdir()))


def _picture(side: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (side, side), "teal").save(out, "JPEG", quality=30)
    return out.getvalue()


def flood(url: str, pid: int) -> dict[str, str]:
    """Everything at once that a hostile page or a broken program may send; what came of each."""
    host, port = url.removeprefix("http://").rstrip("/").split(":")
    told: dict[str, str] = {}
    with httpx.Client(base_url=url, timeout=60) as client:
        job = _job(client)
        large = _picture(7000)
        answers: list[int] = []

        def photo() -> None:
            with contextlib.suppress(httpx.HTTPError):
                answers.append(client.post(f"/api/jobs/{job}/photos", content=large).status_code)

        threads = [threading.Thread(target=photo) for _ in range(30)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        told["30 photos of 49 million pixels"] = (
            f"{answers.count(201)} kept, {len(answers) - answers.count(201)} told to come again"
        )
        halves = []
        for _ in range(20):
            half = socket.create_connection((host, int(port)))
            half.sendall(
                b"POST /api/jobs/import HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 67000000\r\n\r\n"
                + b"x" * 100_000
            )
            halves.append(half)
        slow = [socket.create_connection((host, int(port))) for _ in range(100)]
        for one in slow:
            one.sendall(b"GET /api/health HT")
        began = time.perf_counter()
        client.get("/api/health").raise_for_status()
        told["an answer beside 20 half uploads and 100 slow heads"] = f"{(time.perf_counter() - began) * 1000:.0f} ms"
        brackets = b'{"a": [' + b"[]," * 10_000_000 + b"1]}"
        began = time.perf_counter()
        for half in halves:
            half.close()
        time.sleep(0.3)
        status = client.post("/api/jobs/import", content=brackets).status_code
        told["30 million brackets"] = f"{status} after {time.perf_counter() - began:.1f} s"
        time.sleep(9)
        closed = 0
        for one in slow:
            one.settimeout(0.05)
            with contextlib.suppress(OSError):
                closed += one.recv(1000) == b"" or 1
        told["slow heads let go after 9 s"] = f"{closed} of 100"
        for _ in range(8):
            burst = [threading.Thread(target=lambda: httpx.get(f"{url}/api/jobs/{job}", timeout=30)) for _ in range(40)]
            for thread in burst:
                thread.start()
            for thread in burst:
                thread.join()
            time.sleep(0.2)
    told["open files after eight bursts of 40"] = str(handles(pid))
    # The job that it sends goes into another shop, whose memory counts as well.
    program, other, _ = started("serve", data=Path(f"/tmp/flooded-{secrets.token_hex(4)}.sqlite3"))
    try:
        with httpx.Client(base_url=url, timeout=60) as client:
            told |= large_ones(url, client, _job(client), other)
        told["memory of the shop that the job came into"] = f"{weighs_mb(program.pid):.0f} MB"
    finally:
        program.terminate()
        program.wait(timeout=20)
    return told


def figures() -> Iterator[Figure]:
    """Twenty clients, and the floods."""
    program, url, _ = started("serve", data=Path(f"/tmp/crowd-{secrets.token_hex(4)}.sqlite3"))
    try:
        for own, most in ((False, 250), (True, 100)):
            took, failed, lost = crowd(url, own, SECONDS)
            p50, p95 = np.percentile(took, [50, 95])
            where = "jobs of their own" if own else "one job"
            yield Figure(
                f"{CLIENTS} clients on {where}, a reading each half second",
                f"p50 {p50:.0f} ms, p95 {p95:.0f} ms, {len(took) / SECONDS:.0f} acts/s; {failed} failed, {lost} acknowledged and lost",
                f"p95 < {most} ms, none lost", p95 < most and lost == 0 and failed == 0,
            )  # fmt: skip
        told = flood(url, program.pid)
        weight, open_ = weighs_mb(program.pid), handles(program.pid)
        yield Figure(
            "memory through all floods, at its most", f"{weight:.0f} MB; {'; '.join(f'{k}: {v}' for k, v in told.items())}",
            "< 400 MB", weight < 400,
        )  # fmt: skip
        yield Figure("open files after the floods", str(open_), "< 150", open_ < 150)
    finally:
        program.terminate()
        program.wait(timeout=20)

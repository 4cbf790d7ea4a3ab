"""Every attack at length: `make attack`. Exit status 1 where one came through."""

import logging
import secrets
import sys
import tempfile
import time
from functools import partial
from pathlib import Path
from typing import Any

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tools"))

from bench import crowd  # noqa: E402
from fastapi.testclient import TestClient  # noqa: E402

from attack.calls import search  # noqa: E402
from attack.files import files  # noqa: E402
from attack.kills import kills  # noqa: E402
from attack.outputs import outputs  # noqa: E402
from attack.victim import taken_in  # noqa: E402
from running import started  # noqa: E402
from saldatura.api.app import create_app  # noqa: E402
from saldatura.demo.scenario import build  # noqa: E402
from saldatura.records.bench import Bench  # noqa: E402
from saldatura.records.database import Database  # noqa: E402

# A route that takes nothing but a number runs out of different calls: of so many asked for, 100,000 come.
CALLS, FILES, KILLS, CROWD_S = 118_000, 5000, 1000, 120.0
# Walks of twenty acts over outputs that disobey.
WALKS = 60


def main(share: float) -> int:
    """Each attack at so large a share of its whole size."""
    logging.disable(logging.CRITICAL)
    wrong: list[str] = []
    seed = secrets.randbits(31)
    with tempfile.TemporaryDirectory() as folder:
        began = time.monotonic()
        bench = Bench(Database(Path(folder) / "data.sqlite3"))
        taken_in(bench)
        with TestClient(create_app(bench), base_url="http://127.0.0.1") as client:
            application: Any = client.app
            routes = sum(len(of) for of in application.openapi()["paths"].values())
            print(f"generated calls, seed {seed}", flush=True)
            each = max(int(CALLS * share / routes), 1)
            searched, calls, found = search(application, each, seed, keep_going=True, told=partial(print, flush=True))
        print(
            f"{calls} generated calls of {searched} routes (seed {seed}) in {time.monotonic() - began:.0f} s: {len(found)} routes at fault",
            flush=True,
        )
        wrong += found
        began = time.monotonic()
        shop = Database(Path(folder) / "files.sqlite3")
        build(shop)
        with TestClient(create_app(Bench(shop)), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
            jobs = [job["id"] for job in client.get("/api/jobs").json()["jobs"]]
            answered, found = files(client, jobs, max(int(FILES * share), 1), seed)
        print(
            f"{answered.total()} changed job files, answered {dict(answered)}, in {time.monotonic() - began:.0f} s: {len(found)} at fault",
            flush=True,
        )
        wrong += found
        began = time.monotonic()
        walks = max(int(WALKS * share), 2)
        found = outputs(walks, seed)
        print(
            f"{walks} walks over outputs that disobey, in {time.monotonic() - began:.0f} s: {len(found)} at fault",
            flush=True,
        )
        wrong += found
        began = time.monotonic()
        done, acknowledged, found = kills(max(int(KILLS * share), 6), seed)
        print(
            f"{done.total()} kills {dict(done)}, {acknowledged} acts acknowledged, in {time.monotonic() - began:.0f} s: {len(found)} at fault",
            flush=True,
        )
        wrong += found
        program, url, _ = started("serve", data=Path(folder) / "crowd.sqlite3")
        try:
            for own in (False, True):
                took, failed, lost = crowd.crowd(url, own, CROWD_S * share)
                print(
                    f"20 clients on {'jobs of their own' if own else 'one job'}: {len(took)} acts, {failed} failed, {lost} lost",
                    flush=True,
                )
                wrong += [f"crowd: {failed} acts failed, {lost} acknowledged ones are gone"] if failed or lost else []
            for what, came in crowd.flood(url, program.pid).items():
                print(f"flood: {what}: {came}", flush=True)
            httpx.get(f"{url}/api/health", timeout=5).raise_for_status()
            print(f"memory at its most {crowd.weighs_mb(program.pid):.0f} MB", flush=True)
        finally:
            program.terminate()
            program.wait(timeout=30)
    print("\n".join(["", *wrong]) if wrong else "nothing came through")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0))

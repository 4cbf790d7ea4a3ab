"""What one client may send to fill the memory of all: echoes, bombs, whole jobs, and downloads that nobody reads."""

import io
import json
import socket
import time

import httpx
import numpy as np
from PIL import Image

JSON = {"content-type": "application/json"}
PHOTOS, UNREAD = 24, 12


def large(url: str, client: httpx.Client, job: int, other: str | None = None) -> dict[str, str]:
    """Each with what came of it; `other`: another shop, which the job with all of its photos is brought into."""
    told: dict[str, str] = {}

    def sent(what: str, path: str, body: bytes) -> None:
        began = time.perf_counter()
        answer = client.post(path, content=body, headers=JSON)
        told[what] = f"{answer.status_code}, {len(answer.content)} bytes, after {time.perf_counter() - began:.2f} s"

    fields = ",".join(f'"f{n}":1' for n in range(700_000))
    sent("8 MB of unknown fields", "/api/jobs", f"{{{fields}}}".encode())
    sent("11,000 unknown fields", "/api/jobs", ("{" + ",".join(f'"f{n}":1' for n in range(11_000)) + "}").encode())
    sent("a name of 7 MB", "/api/jobs", json.dumps({"intake": {"x" * 7_000_000: 1}}).encode())
    wrong = ",".join('{"a":1,"b":2}' for _ in range(100_000))
    sent("100,000 wrong entries", "/api/compute/match", f'{{"cells":[{wrong}],"series":3,"parallel":1}}'.encode())
    bomb = io.BytesIO()
    Image.new("RGB", (16_000, 16_000), "white").save(bomb, "WEBP", quality=1)
    began = time.perf_counter()
    status = client.post(f"/api/jobs/{job}/photos", content=bomb.getvalue()).status_code
    told["WebP of 256 million pixels"] = f"{status} after {time.perf_counter() - began:.2f} s"
    noise = np.random.default_rng(1)
    for _ in range(PHOTOS):
        picture = io.BytesIO()
        Image.fromarray(noise.integers(0, 256, (1500, 2200, 3), dtype=np.uint8)).save(picture, "JPEG", quality=60)
        client.post(f"/api/jobs/{job}/photos", content=picture.getvalue()).raise_for_status()
    document = client.get(f"/api/jobs/{job}/export").content
    if other is not None:
        began = time.perf_counter()
        status = httpx.post(
            f"{other.rstrip('/')}/api/jobs/import", content=document, headers=JSON, timeout=60
        ).status_code
        told[f"a job of {len(document) / 1e6:.0f} MB brought in"] = (
            f"{status} after {time.perf_counter() - began:.1f} s"
        )
    host, port = url.removeprefix("http://").rstrip("/").split(":")
    left = []
    for _ in range(UNREAD):
        talk = socket.create_connection((host, int(port)))
        talk.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        talk.sendall(f"GET /api/jobs/{job}/export HTTP/1.1\r\nHost: {host}:{port}\r\n\r\n".encode())
        left.append(talk)
    time.sleep(3)
    began = time.perf_counter()
    client.get("/api/health").raise_for_status()
    told[f"an answer beside {UNREAD} downloads that nobody reads"] = f"{(time.perf_counter() - began) * 1000:.0f} ms"
    for talk in left:
        talk.close()
    return told

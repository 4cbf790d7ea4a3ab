"""Running the application: address, logs, the line that says where it is."""

import asyncio
import contextlib
import ctypes
import gc
import ipaddress
import logging
import os
import secrets
import socket
import threading
from pathlib import Path
from typing import Any, cast

import numpy as np
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from saldatura.api.app import create_app, static_folder
from saldatura.api.later import Later
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.level.anneal import anneal
from saldatura.battery.level.schedule import mixed_bound
from saldatura.battery.verdict import VerdictRequest, verdict
from saldatura.records.bench import Bench

WARM_AFTER_S = 0.6
# Seconds for the head of a request to come in; signs of a page's token.
HEAD_S, TOKEN_SIGNS = 8.0, 48
# An answer that nobody reads for so long, s, is let go with all that waits to be sent.
UNREAD_S = 30.0
# The C library's own numbers: from which bytes a block is large, and how many heaps there are for all threads together.
M_MMAP_THRESHOLD, LARGE_BLOCK = -3, 1 << 18
M_ARENA_MAX, ARENAS = -8, 2


class AddressError(ValueError):
    """The host or port cannot be used; the message says why."""


def check_host(host: str) -> None:
    """Refuse anything but the loopback. Raises AddressError."""
    try:
        loopback = host == "localhost" or ipaddress.ip_address(host).is_loopback
    except ValueError:
        loopback = False
    if not loopback:
        raise AddressError(
            f"--host {host}: only the loopback (127.0.0.1) is served for now, since there is no sign-in yet and anyone on "
            "the network could read customers' jobs"
        )


def bind(host: str, port: int) -> socket.socket:
    """A listening socket. Raises AddressError when the port is taken."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # With the protocol named, asyncio turns Nagle's algorithm off; without it every answer waits 40 ms for an ACK.
    sock = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        sock.bind((host, port))
    except OSError as error:
        raise AddressError(
            f"port {port} on {host} cannot be used ({error.strerror}); choose another with --port"
        ) from error
    # Whoever comes before the server is ready waits for it.
    sock.listen()
    return sock


def warm_up() -> None:
    """Compute a verdict and a charge, fetch what else is compiled, and settle the memory, so that the first of the day is as quick as the others."""
    readings = [{"kind": "group", "group": k, "volts": 4.0} for k in (1, 2, 3)]
    pack = {"chemistry": "li_oxide", "series": 3, "rated_ah": 5.0}
    verdict(VerdictRequest.model_validate({"pack": pack, "readings": readings}))
    charge(ChargeRequest(chemistry="nmc", capacity_ah=5.0, resistance_ohm=0.03, start_soc=0.5, current_a=2.5))
    mixed_bound([1.0], {"supply": [1.0]}, [], 1.0, 0.1)
    anneal(np.ones((2, 2)), np.zeros(2, dtype=bool), np.zeros(2, dtype=np.intp), 1, 1)
    # Large blocks go back to the machine when they are let go, and are not kept by each thread for its own next one.
    with contextlib.suppress(OSError, AttributeError):
        libc = ctypes.CDLL(None)
        libc.mallopt(M_MMAP_THRESHOLD, LARGE_BLOCK)
        # Forty threads that each keep a heap of their own keep forty times what one of them once needed.
        libc.mallopt(M_ARENA_MAX, ARENAS)
    # What is loaded now stays; a collection in the middle of a reading need not look at it again.
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)


def _socket(*args: Any, **more: Any) -> asyncio.Protocol:
    """A socket's protocol; its library is loaded with the first one, which comes after the first page."""
    from uvicorn.protocols.websockets.websockets_sansio_impl import WebSocketsSansIOProtocol

    return WebSocketsSansIOProtocol(*args, **more)


def _prepare(later: Later) -> None:
    later.load()
    warm_up()


def run(bench: Bench, host: str, port: int) -> None:
    """Serve until stopped, having printed the address."""
    check_host(host)
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(message)s", datefmt="%H:%M:%S")
    static = static_folder()
    if not (static / "index.html").exists():
        raise AddressError("the front end is not built; run `make serve` or `make demo`, which build it")
    sock = bind(host, port)
    name = f"[{host}]" if ":" in host else host
    print(f"Saldatura is at http://{name}:{sock.getsockname()[1]}/  (Ctrl+C stops it)", flush=True)
    app = create_app(bench, static, page_token(bench.db.path), starting=True)
    gc.enable()
    # Beside the first page, once it is there: the first act of the day waits for what is not loaded yet at the worst.
    warm = threading.Timer(WARM_AFTER_S, _prepare, [app.state.later])
    warm.daemon = True
    warm.start()
    config = uvicorn.Config(
        app, log_level="warning", access_log=False, ws=cast(type[asyncio.Protocol], _socket), http=Patient,
        # A window that is asked and says nothing is gone; what is sent to one is small.
        ws_ping_interval=20, ws_ping_timeout=20, ws_max_size=4096, ws_max_queue=8, timeout_graceful_shutdown=3,
    )  # fmt: skip
    uvicorn.Server(config).run(sockets=[sock])


class Patient(H11Protocol):
    """HTTP that waits for the head of a request only so long: a connection that says nothing, or drips, holds nothing for nobody."""

    _due: asyncio.TimerHandle | None = None
    _unread: asyncio.TimerHandle | None = None

    def pause_writing(self) -> None:
        """What was sent is not read: so long and no longer."""
        super().pause_writing()
        self._unread = self._unread or self.loop.call_later(UNREAD_S, self.transport.abort)

    def resume_writing(self) -> None:
        """It is read again."""
        super().resume_writing()
        self._read()

    def _read(self) -> None:
        if self._unread is not None:
            self._unread.cancel()
            self._unread = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait for the first request."""
        super().connection_made(transport)
        self._due = self.loop.call_later(HEAD_S, self._too_slow)

    def data_received(self, data: bytes) -> None:
        """Wait anew where this begins a request, no more where its head is whole."""
        super().data_received(data)
        waits = self.cycle is None or self.cycle.response_complete
        if waits and self._due is None:
            self._due = self.loop.call_later(HEAD_S, self._too_slow)
        elif not waits:
            self._at_rest()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing is waited for."""
        self._at_rest()
        self._read()
        super().connection_lost(exc)

    def _at_rest(self) -> None:
        if self._due is not None:
            self._due.cancel()
            self._due = None

    def _too_slow(self) -> None:
        self._due = None
        if (self.cycle is None or self.cycle.response_complete) and not self.transport.is_closing():
            self.transport.close()


def page_token(data: Path) -> str:
    """What pages of this data file's program show with every act; the same over restarts, so that an open window stays a page of ours."""
    kept = data.with_name(f"{data.name}.page")
    with contextlib.suppress(OSError):
        found = kept.read_text(encoding="ascii").strip()
        if len(found) == TOKEN_SIGNS:
            return found
    token = secrets.token_hex(TOKEN_SIGNS // 2)
    with open(os.open(kept, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w", encoding="ascii") as file:
        file.write(token)
    return token

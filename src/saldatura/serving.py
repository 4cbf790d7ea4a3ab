"""Running the application: address, logs, the line that says where it is."""

import gc
import ipaddress
import logging
import socket
import threading

import numpy as np
import uvicorn

from saldatura.api.app import create_app, static_folder
from saldatura.bench import Bench
from saldatura.core.charge import ChargeRequest, charge
from saldatura.core.level_plan.anneal import anneal
from saldatura.core.verdict import VerdictRequest, verdict

WARM_AFTER_S = 0.6


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
    anneal(np.ones((2, 2)), np.zeros(2, dtype=bool), np.zeros(2, dtype=np.intp), 1, 1)
    # What is loaded now stays; a collection in the middle of a reading need not look at it again.
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)


def run(bench: Bench, host: str, port: int) -> None:
    """Serve until stopped, having printed the address."""
    check_host(host)
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(message)s", datefmt="%H:%M:%S")
    static = static_folder()
    if not (static / "index.html").exists():
        raise AddressError("the front end is not built; run `make serve` or `make demo`, which build it")
    sock = bind(host, port)
    # Beside the first page, once it is there: the first act of the day waits for what is not loaded yet at the worst.
    warm = threading.Timer(WARM_AFTER_S, warm_up)
    warm.daemon = True
    warm.start()
    name = f"[{host}]" if ":" in host else host
    print(f"Saldatura is at http://{name}:{sock.getsockname()[1]}/  (Ctrl+C stops it)", flush=True)
    config = uvicorn.Config(create_app(bench, static), log_level="warning", access_log=False, ws="websockets-sansio")
    uvicorn.Server(config).run(sockets=[sock])

"""The stand-ins' network side: SCPI over plain sockets on the loopback, all in one thread."""

import asyncio
import logging
import threading

from saldatura.instruments.scpi import Instrument
from saldatura.shop.address import Address

log = logging.getLogger("saldatura")

LONGEST_LINE = 4096
# Answers that nobody has read yet, bytes.
MOST_UNREAD = 16_384


class _Talk(asyncio.Protocol):
    """One connection to one stand-in."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument
        self.rest = b""

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        assert isinstance(transport, asyncio.Transport)
        self.transport = transport
        transport.set_write_buffer_limits(high=MOST_UNREAD)

    def pause_writing(self) -> None:
        """Nobody reads the answers: no more questions are taken until somebody does."""
        self.transport.pause_reading()

    def resume_writing(self) -> None:
        """They are read again."""
        self.transport.resume_reading()

    def data_received(self, data: bytes) -> None:
        *lines, self.rest = (self.rest + data).split(b"\n")
        if len(self.rest) > LONGEST_LINE:
            self.transport.close()
            return
        for line in lines:
            # Questions of one gulp, each short and its answer long.
            if self.transport.get_write_buffer_size() > 4 * MOST_UNREAD:
                self.transport.abort()
                return
            try:
                answer = self.instrument.handle(line.decode("ascii", "replace"))
            except Exception:  # a fault of the stand-in must not look like a dead instrument
                log.exception("stand-in failed")
                answer = "-300"
            if answer is not None:
                self.transport.write(answer.encode("ascii", "replace") + b"\n")


class Sockets:
    """A thread that serves stand-ins; every one gets a port of its own on 127.0.0.1."""

    def __init__(self) -> None:
        self._loop = asyncio.new_event_loop()
        self._servers: dict[int, asyncio.Server] = {}
        self._thread = threading.Thread(target=self._loop.run_forever, name="stand-ins", daemon=True)
        self._thread.start()

    def open(self, instrument: Instrument) -> Address:
        """Listen for an instrument on a free port."""

        async def listen() -> int:
            server = await self._loop.create_server(lambda: _Talk(instrument), "127.0.0.1", 0)
            port = int(server.sockets[0].getsockname()[1])
            self._servers[port] = server
            return port

        port = asyncio.run_coroutine_threadsafe(listen(), self._loop).result(timeout=5)
        return Address(host="127.0.0.1", port=port)

    def shut(self, address: Address) -> None:
        """Stop listening at an address."""

        def shut() -> None:
            server = self._servers.pop(address.port, None)
            if server is not None:
                server.close()

        self._loop.call_soon_threadsafe(shut)

    def close(self) -> None:
        """Stop serving."""
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=2)

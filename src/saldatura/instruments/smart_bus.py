"""The two data wires of a smart pack: a bus of this machine, or the simulated one of a virtual pack; read, and never written."""

import contextlib
import re
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.pack.chip import blocks_of, words_of
from saldatura.battery.quantities import Value
from saldatura.battery.smart.pec import block_pec, word_pec
from saldatura.battery.smart.table import ADDRESS, BLOCKS, STANDARD
from saldatura.battery.smart.types import LONGEST_BLOCK
from saldatura.instruments.virtual import VirtualPack

BUS_CLASS = Path("/sys/class/i2c-dev")
BUS_PATH = re.compile(r"/dev/i2c-\d{1,3}", re.ASCII)
SIMULATED = "simulated"
# A word that came wrong, or not at all, is asked for so often.
TRIES = 3
# Where a chip is looked for that does not answer where the standard has it.
NEAR = (0x0B, 0x0A, 0x0C, 0x09, 0x0D, 0x08, 0x0E, 0x0F, 0x16)
VERSION_WITH_PEC = 3


class NoAnswer(Exception):
    """Nothing acknowledged at the address."""


class Bus(Protocol):
    """Whatever carries a transaction: bytes written, then so many read without a stop between."""

    def transfer(self, address: int, write: bytes, read: int) -> bytes:
        """Raises NoAnswer."""
        ...


class BusHere(Value):
    """A bus: its file, what its driver calls it; `own`: memory and graphics of this machine sit on it, and it is never read."""

    path: str
    name: str
    own: bool = False


class ChipRead(Value):
    """What came: words, None where none did, blocks as hex, and the codes that came with them where the chip sends any."""

    address: int
    words: dict[str, int | None]
    blocks: dict[str, str]
    pec: dict[str, int]


def buses() -> list[BusHere]:
    """The buses of this machine that its kernel has a driver for. None of them is opened."""
    found = []
    for entry in sorted(BUS_CLASS.glob("i2c-*")) if BUS_CLASS.exists() else []:
        with contextlib.suppress(OSError):
            name = "".join(s for s in (entry / "name").read_text(errors="replace").strip() if s.isprintable())[:80]
            where = str(entry.resolve())
            found.append(BusHere(path=f"/dev/{entry.name}", name=name, own="/usb" not in where and "/pci" in where))
    return found


class KernelBus:
    """A bus that the kernel serves: a board's own, or a USB adapter."""

    def __init__(self, path: str) -> None:
        from smbus2 import SMBus

        if not BUS_PATH.fullmatch(path):
            raise Impossible("bus", "no_such_bus", "choose one of the buses of the list")
        try:
            self._bus = SMBus(path)
        except PermissionError:
            raise Refused(
                "bus",
                "no_right_to_open",
                f"{path} may not be opened by this user; on Debian: add the user to the group i2c",
            ) from None
        except OSError:
            raise Refused("bus", "bus_not_opened", f"{path} does not open; is the adapter plugged in?") from None

    def transfer(self, address: int, write: bytes, read: int) -> bytes:
        """Write and read in one. Raises NoAnswer."""
        from smbus2 import i2c_msg

        asked, answer = i2c_msg.write(address, list(write)), i2c_msg.read(address, read)
        try:
            self._bus.i2c_rdwr(asked, answer)
        except OSError:
            raise NoAnswer from None
        return bytes(answer)

    def close(self) -> None:
        """Let go of it."""
        self._bus.close()


class SimulatedBus:
    """The bus of a virtual pack with a chip. `fed`: a supply of somebody's feeds its board from outside."""

    def __init__(self, virtual: VirtualPack, fed: bool) -> None:
        self.virtual, self.fed = virtual, fed

    def transfer(self, address: int, write: bytes, read: int) -> bytes:
        """As the chip answers. Raises NoAnswer."""
        virtual, chip = self.virtual, self.virtual.spec.chip
        virtual.settle()
        with virtual.lock:
            charged = virtual.running and virtual.rig.amps >= 0
            if chip is None or address != chip.address or not write:
                raise NoAnswer
            if chip.has("silent_until_fed") and not (self.fed or charged):
                raise NoAnswer
            number = write[0]
            answer = self._answer(number)
            virtual.chip_answers += 1
            noisy = chip.has("pec_errors")
            if noisy is not None and virtual.chip_answers % noisy.size == 0:
                answer = bytes([answer[0] ^ 0x04]) + answer[1:]
        # What is read beyond the answer is an idle bus.
        return (answer + b"\xff" * read)[:read]

    def _answer(self, number: int) -> bytes:
        chip = self.virtual.spec.chip
        assert chip is not None
        block = blocks_of(self.virtual.rig, chip).get(number)
        if block is not None:
            return bytes([len(block)]) + block + bytes([block_pec(number, block, chip.address)])
        word = words_of(self.virtual.rig, chip).get(number)
        if word is None:
            raise NoAnswer
        frozen = chip.has("frozen_word")
        if frozen is not None and number == frozen.number:
            word = self.virtual.chip_frozen.setdefault(number, word)
        return word.to_bytes(2, "little") + bytes([word_pec(number, word, chip.address)])


_locks: dict[str, threading.Lock] = {}
_locks_lock = threading.Lock()


@contextmanager
def opened(path: str, virtual: VirtualPack | None, fed: bool) -> Iterator[Bus]:
    """A bus for a while, one reader at a time. Raises Impossible, Refused."""
    if virtual is not None:
        if path != SIMULATED:
            raise Refused(
                "bus",
                "simulated_pack",
                "this pack is simulated: its simulated bus reads it; a real bus would read another pack",
            )
        if virtual.spec.chip is None:
            raise Refused("bus", "no_chip", "this simulated pack has no chip; put one with a chip in its place")
        yield SimulatedBus(virtual, fed)
        return
    here = next((bus for bus in buses() if bus.path == path), None)
    if here is None:
        raise Impossible("bus", "no_such_bus", "there is no such bus; the list shows those that are plugged in")
    if here.own:
        raise Refused(
            "bus", "own_bus", f"{here.path} is this machine's own: memory and graphics sit on it; use an adapter"
        )
    with _locks_lock:
        lock = _locks.setdefault(path, threading.Lock())
    with lock:
        bus = KernelBus(path)
        try:
            yield bus
        finally:
            bus.close()


def read_chip(bus: Bus, address: int = ADDRESS, numbers: Iterable[int] = tuple(STANDARD)) -> ChipRead:
    """Read words and blocks of a chip. Raises Refused where nothing answers at its address."""
    # A chip that sends codes is known by one that is right, or by what it says of itself.
    spec = _word(bus, address, 0x1A, True)
    with_pec = spec is not None and (
        spec[1] == word_pec(0x1A, spec[0], address) or (spec[0] >> 4 & 0xF) == VERSION_WITH_PEC
    )
    words: dict[str, int | None] = {}
    blocks: dict[str, str] = {}
    codes: dict[str, int] = {}
    for number in numbers:
        key = f"0x{number:02x}"
        if number in BLOCKS:
            block = _block(bus, address, number, with_pec)
            if block is not None:
                blocks[key] = block[0].hex()
                codes |= {key: block[1]} if with_pec else {}
            continue
        word = _word(bus, address, number, with_pec)
        words[key] = None if word is None else word[0]
        codes |= {key: word[1]} if with_pec and word is not None else {}
        if number == 0x09 and word is None and spec is None:
            break
    if spec is None and not blocks and all(word is None for word in words.values()):
        raise Refused("bus", "no_chip_answers", f"nothing answers at address 0x{address:02x}")
    return ChipRead(address=address, words=words, blocks=blocks, pec=codes)


def near_addresses(bus: Bus) -> list[int]:
    """Addresses about the standard's own at which something answers to a reading of its specification word."""
    return [address for address in NEAR if _word(bus, address, 0x1A, False) is not None]


def _word(bus: Bus, address: int, number: int, with_pec: bool) -> tuple[int, int] | None:
    found: tuple[int, int] | None = None
    for _ in range(TRIES):
        try:
            low, high, code = bus.transfer(address, bytes([number]), 3)
        except NoAnswer:
            continue
        found = (low | high << 8, code)
        if not with_pec or code == word_pec(number, found[0], address):
            break
    return found


def _block(bus: Bus, address: int, number: int, with_pec: bool) -> tuple[bytes, int] | None:
    found: tuple[bytes, int] | None = None
    for _ in range(TRIES):
        try:
            came = bus.transfer(address, bytes([number]), LONGEST_BLOCK + 2)
        except NoAnswer:
            continue
        length = came[0]
        if length > LONGEST_BLOCK:
            continue
        found = (came[1 : 1 + length], came[1 + length])
        if not with_pec or found[1] == block_pec(number, found[0], address):
            break
    return found

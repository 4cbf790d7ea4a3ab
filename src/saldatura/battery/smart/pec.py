"""The packet error code of the System Management Bus."""

from collections.abc import Iterable

from saldatura.battery.smart.table import ADDRESS

POLYNOMIAL = 0x07


def pec(data: Iterable[int]) -> int:
    """CRC-8 with x⁸ + x² + x + 1 over the bytes of a transaction, addresses included, from nothing (SMBus 1.1, 7.4)."""
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = ((crc << 1) ^ POLYNOMIAL if crc & 0x80 else crc << 1) & 0xFF
    return crc


def word_pec(number: int, word: int, address: int = ADDRESS) -> int:
    """The code that follows a word that was read: over the address to write, the command, the address to read, low byte, high byte."""
    return pec((address << 1, number, (address << 1) | 1, word & 0xFF, word >> 8))


def block_pec(number: int, block: bytes, address: int = ADDRESS) -> int:
    """The same after a block with its length."""
    return pec((address << 1, number, (address << 1) | 1, len(block), *block))

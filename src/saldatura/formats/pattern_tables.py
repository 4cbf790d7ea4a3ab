"""A pattern's pins and codes as tables for spreadsheets."""

import csv
import io
from collections.abc import Iterable

from saldatura.formats.plain import cell
from saldatura.shop.patterns.sheet import PatternSheet


def _table(header: list[str], rows: Iterable[list[object]]) -> str:
    text = io.StringIO()
    table = csv.writer(text)
    table.writerow(header)
    table.writerows([cell(value) for value in row] for row in rows)
    return text.getvalue()


def pins(sheet: PatternSheet) -> str:
    """Every pin of every connector, UTF-8, comma, point, SI units."""
    return _table(
        ["connector", "carries", "pin", "wire", "tap", "sensor", "volts_v"],
        (
            [plug.plug, plug.carries, pin.pin, pin.wire, pin.tap, pin.sensor, pin.volts]
            for plug in sheet.plugs
            for pin in plug.pins
        ),
    )


def codes(sheet: PatternSheet) -> str:
    """Every code of its lamps and buzzers."""
    return _table(
        ["by", "shows", "revision", "means", "says"],
        ([c.by, c.shows, c.revision, c.means, c.says] for c in sheet.codes),
    )

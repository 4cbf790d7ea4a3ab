"""A pattern's pins and codes as tables for spreadsheets."""

from saldatura.formats.plain import csv_of
from saldatura.shop.patterns.sheet import PatternSheet


def pins(sheet: PatternSheet) -> str:
    """Every pin of every connector, UTF-8, comma, point, SI units."""
    return csv_of(
        ["connector", "carries", "pin", "wire", "tap", "sensor", "volts_v"],
        (
            [plug.plug, plug.carries, pin.pin, pin.wire, pin.tap, pin.sensor, pin.volts]
            for plug in sheet.plugs
            for pin in plug.pins
        ),
    )


def codes(sheet: PatternSheet) -> str:
    """Every code of its lamps and buzzers."""
    return csv_of(
        ["by", "shows", "revision", "means", "says"],
        ([c.by, c.shows, c.revision, c.means, c.says] for c in sheet.codes),
    )

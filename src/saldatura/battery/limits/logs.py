"""What a log may say before it is asked whether that is meant."""

from saldatura.battery.limits.limit import Limit

VOLTS_LEAST, VOLTS_MOST = Limit(0.2, "V", "A column without a name is volts from here.", "cells and packs"), Limit(110.0, "V", "And up to here.", "packs this program takes")  # fmt: skip
AMPS_MOST = Limit(500.0, "A", "And amps up to here.", "loads of small packs")
MILLI_VOLTS, MILLI_AMPS = Limit(200.0, "V", "A usual value above this without a unit is in thousandths.", "packs this program takes"), Limit(150.0, "A", "A usual current above this without a unit is in thousandths.", "testers of cells")  # fmt: skip
BAD_SHARE, BAD_ROWS = Limit(0.01, "share", "More rows than this that are no values make a file none.", "house"), Limit(3, "rows", "Of a file with a hundred rows.", "house")  # fmt: skip
STARTS_ANEW_ROWS = Limit(5, "rows", "A time that begins again after fewer is a slip.", "house")
BEYOND_V, BEYOND_A = Limit(1000.0, "V", "No log of a battery holds more.", "house"), Limit(10_000.0, "A", "Nor that.", "house")  # fmt: skip
MIDNIGHT_S, MIDNIGHT_FALL_S = Limit(86_400.0, "s", "A clock begins anew at midnight.", "calendar"), Limit(43_200.0, "s", "A fall by more is midnight, and no slip.", "house")  # fmt: skip
BEYOND_ANY = Limit(1e12, "in its unit", "No log holds a larger number, dates as seconds included.", "house")

"""Logs of chargers, testers and supplies: a table of whatever layout to seconds, volts, amps and degrees."""

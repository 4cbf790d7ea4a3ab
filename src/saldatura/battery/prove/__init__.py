"""Acceptance: checks on a string, and how long it runs a load."""

"""Attacks on the application: generated calls, kills at any moment, crowds, hostile files. `make attack` runs them at length."""

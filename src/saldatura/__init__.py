"""Saldatura: a bench companion for people who repair small battery packs."""

__version__ = "0.1.0"

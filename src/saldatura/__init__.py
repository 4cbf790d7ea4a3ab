"""Saldatura: a bench companion for people who repair small battery packs."""

import os

__version__ = "0.1.0"

# Before numbers are loaded: what is solved here is small, and threads that wait for one another take more than they bring.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

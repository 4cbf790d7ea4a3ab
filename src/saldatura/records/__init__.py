"""The data file: append-only facts in SQLite, plain SQL, one module per aggregate."""

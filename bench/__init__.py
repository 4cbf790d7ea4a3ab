"""Benchmarks: `make bench` runs them all and writes docs/benchmarks.md."""

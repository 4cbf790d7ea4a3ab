"""Cells of a drawer, chosen and grouped."""

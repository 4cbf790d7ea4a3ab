"""Kinds of measure, a module each."""

"""Readers and writers of files, one format a module."""

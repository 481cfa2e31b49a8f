"""Measurements against a named baseline in the same run."""

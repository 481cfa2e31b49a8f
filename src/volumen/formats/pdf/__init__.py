"""Portable Document Format, written."""

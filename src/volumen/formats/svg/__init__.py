"""Scalable Vector Graphics, written and read."""

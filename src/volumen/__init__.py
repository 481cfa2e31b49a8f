"""Volumen: volume, light and material for vector artwork."""

__version__ = "0.1.0"

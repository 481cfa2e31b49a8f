"""Colour encodings, OKLab and colour difference."""

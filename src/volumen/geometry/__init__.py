"""Cubic paths, primitives and path operations: numbers only, no document, no drawing surface."""

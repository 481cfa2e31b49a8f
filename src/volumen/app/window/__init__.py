"""Puts the parts together and starts them; nobody else names it."""

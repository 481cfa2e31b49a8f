"""Editing as pure functions Document -> Document, and the history of roots."""

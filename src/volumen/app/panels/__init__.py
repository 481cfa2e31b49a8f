"""The panels around the sheet."""

"""The catalogue: one row registers an ingredient or a form. See ``rows``."""

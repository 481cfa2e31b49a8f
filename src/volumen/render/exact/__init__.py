"""The exact renderer: instructions to float pixels, as they are exported."""

"""The draft renderer: coarse and fast, while a hand moves."""

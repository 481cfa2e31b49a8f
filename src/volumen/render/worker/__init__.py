"""The worker process behind the window, and how the two talk."""

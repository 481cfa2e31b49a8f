"""Picture to pixels: painting, blurs, dithering, and the worker process behind the window."""

"""Files: the native format, SVG, PDF and bitmaps."""

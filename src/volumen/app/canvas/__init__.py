"""The sheet: shows the picture, paints handles over it and gives gestures to the tools."""

"""The picture: a small, closed set of drawing instructions between a document and everything that draws it."""

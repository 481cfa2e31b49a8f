"""Stock: the things that artwork lives on, drawn by code and lit by the artwork's own lamp."""

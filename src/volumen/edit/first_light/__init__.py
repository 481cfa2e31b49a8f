"""First light: a flat drawing gets bodies, edges, lifts and shadows in one step, all of it ordinary ingredients."""

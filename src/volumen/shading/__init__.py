"""Light maths: gradients, materials, bodies, slivers, shadows. Arrays and paths in, arrays and paths out."""

"""Pure geometry on arrays: exact outlines of lines and arcs, and distances between them."""

"""A study: what was read, its trees, what was found of them, and the one file that keeps it all."""

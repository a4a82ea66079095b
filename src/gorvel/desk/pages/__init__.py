"""One page a file; pages never import each other."""

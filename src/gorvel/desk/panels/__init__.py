"""Parts of pages that have work of their own; panels never import each other."""

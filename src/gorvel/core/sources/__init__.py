"""From the files that a plan names to one table, or a matrix."""

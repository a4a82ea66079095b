"""Trees of the same cases against each other, and their cuts."""

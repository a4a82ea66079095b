"""How many clusters: every rule at every count, resampling, and what speaks for a count."""

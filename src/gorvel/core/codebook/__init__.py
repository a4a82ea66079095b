"""Codebooks: levels, labels and missing codes of columns, in the forms they come in."""

"""The Cases page and its panels."""

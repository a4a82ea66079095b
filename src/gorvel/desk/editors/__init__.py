"""Editors of parts of a plan, of data, and of how files are read."""

"""Gorvel: agglomerative hierarchies of survey cases."""

__version__ = "0.1.0"

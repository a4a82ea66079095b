"""Geometry of the views of a tree, as plain arrays; knows no painter."""

"""Columns of the desk as plain values: a tree seen along its cases."""

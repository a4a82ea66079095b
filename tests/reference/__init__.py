"""Slow results, written from the definitions. Nothing here is shared with the program."""

"""Rounds of work, and what carries them out."""

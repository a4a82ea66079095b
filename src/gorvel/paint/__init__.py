"""Scenes to any paint device: screen, picture, print."""

"""The window: Qt. Listens to one shared focus, draws, and computes no statistics."""

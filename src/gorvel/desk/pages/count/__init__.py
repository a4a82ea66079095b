"""The Count page and its cards."""

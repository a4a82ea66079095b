"""All that takes time or touches files, off the interface thread."""

"""What everything stands on: errors, progress, memory, the one way in which files are written."""

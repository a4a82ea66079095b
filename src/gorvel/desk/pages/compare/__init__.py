"""The Compare page with its cards."""

"""The Profiles page with its panels."""

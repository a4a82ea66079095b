"""The command line: core only."""

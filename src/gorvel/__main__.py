"""`python -m gorvel`: the command line."""

from gorvel.main import entry

entry()

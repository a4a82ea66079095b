"""The window around the pages, its commands, and how it is started."""

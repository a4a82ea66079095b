"""The statistics of Gorvel: plain functions over frozen objects. Never imports Qt."""

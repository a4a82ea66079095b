"""From a table to numeric cases: which rows, and how their answers are prepared."""

"""From a plan to a grown tree, and cases that are given to its clusters afterwards."""

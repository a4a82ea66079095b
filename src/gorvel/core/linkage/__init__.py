"""Joining rules: one registry, and the routine that grows a tree by any of them."""

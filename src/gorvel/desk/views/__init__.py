"""Painted and tabular views of the tree; each listens to the focus and draws."""

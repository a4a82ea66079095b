"""Every choice of an analysis: what there is to choose, what goes together, what makes a tree."""

"""What the clusters of a cut are like, and how sure that is."""

"""Rules for the number of clusters that do not resample: how each is worked out and decides."""

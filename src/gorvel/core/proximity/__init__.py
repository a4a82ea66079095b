"""How far apart two cases are: one registry of measures, and the matrix of all pairs."""

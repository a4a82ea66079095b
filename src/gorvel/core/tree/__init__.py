"""The immutable tree and what follows from it: cuts, names, schedule, cophenetic correlation."""

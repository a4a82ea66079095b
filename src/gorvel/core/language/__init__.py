"""One small language for choosing rows and for making numbers from answers."""

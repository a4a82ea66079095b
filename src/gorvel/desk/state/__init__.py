"""What is open, in hand and marked, and what is remembered from one start to the next."""

"""What looks wrong with a variable, and what would cure it."""

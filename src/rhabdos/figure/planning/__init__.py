"""What stands where in a figure, by names alone."""

"""What the user asked a figure to be."""

"""What a figure looks like: palettes, whole looks, and how letters are set."""

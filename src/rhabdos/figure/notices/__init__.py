"""What the reader of a figure should know."""

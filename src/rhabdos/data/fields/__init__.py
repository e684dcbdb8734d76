"""What fields of text mean: their marks, names, numbers, dates and kinds."""

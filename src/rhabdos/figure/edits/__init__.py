"""What a hand or a typed word makes of a recipe."""

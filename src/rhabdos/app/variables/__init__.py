"""The variables of a table: their list, their overview, and plain charts of them."""

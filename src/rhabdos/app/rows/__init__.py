"""The place of rows: how they came about, the rows, and the facts of a variable."""

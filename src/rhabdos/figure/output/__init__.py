"""The numbers behind a figure, written down."""

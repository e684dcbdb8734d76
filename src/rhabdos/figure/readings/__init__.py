"""Every number in a figure."""

"""The row of figures of one piece of work, and what stands beside one another."""

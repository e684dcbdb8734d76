"""Where axes begin and end, their ticks, and lines across them."""

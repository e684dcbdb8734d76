"""Small widgets that any part of the window may use, and what they look like."""

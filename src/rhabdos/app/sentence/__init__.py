"""The sentence across the top, and the choices of its phrases."""

"""The legend, and what stands above the frame with it."""

"""Speed, as ratios of two things done side by side in one run: these say the same on any
machine."""

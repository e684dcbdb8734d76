"""What is open, as the window knows it, and the long work that is done for it."""

"""What the desktop is given, and hears."""

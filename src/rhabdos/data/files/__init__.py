"""Files: opened, unpacked, told apart, read and written."""

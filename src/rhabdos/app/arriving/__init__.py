"""How data arrive: files, typed values, practice samples."""

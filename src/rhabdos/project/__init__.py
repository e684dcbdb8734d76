"""The document, its history, and safe storage. No Qt."""

"""The window. The only package that uses widgets."""

"""Readers, one file for each family of formats; each turns an open file into a table."""

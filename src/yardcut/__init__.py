"""Yard Cut: cut slices out of large tables in the terminal."""

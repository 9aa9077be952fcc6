"""Rows of one table found in another by their keys."""

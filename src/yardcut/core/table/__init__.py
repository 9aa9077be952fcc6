"""Columns and tables mapped from disk, sets of rows, and reading one page of cells."""

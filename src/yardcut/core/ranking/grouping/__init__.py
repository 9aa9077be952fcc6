"""Rows that have the same values: groups, neighbours in an order, ties, repeats."""

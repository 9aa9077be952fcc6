"""Summaries of a column over some rows: counts, bounds, sums, distinct values, a distribution."""

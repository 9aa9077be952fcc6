"""Quiet hints about a line and the rows it takes."""

"""Kinds, missing values, and how values are written as text."""

"""Saving: slices, lists, small tables, and the list at every edit."""

"""Cells as texts: as they stood in the source, or written from their values."""

"""Cards about a line or a cut: its tree, its keys, its draw, dials, the cuts of the list."""

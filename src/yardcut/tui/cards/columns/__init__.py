"""Cards about a column: what is known of it, its values, bounds over it, conditions about a cell."""

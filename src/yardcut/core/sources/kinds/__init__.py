"""Which kind a column is of: guessed, declared, settled at the end, and what does not fit."""

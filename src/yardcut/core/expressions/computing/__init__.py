"""Values worked out of others: arithmetic, casts and the kernels of functions."""

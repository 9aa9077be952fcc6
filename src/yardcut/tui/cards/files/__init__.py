"""Cards about files: what was read, what is written, which table to open, lists that were kept."""

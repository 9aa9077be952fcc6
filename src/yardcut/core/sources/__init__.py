"""Reading sources: guessing a file's form, its first rows at once, the whole of it into a store in the cache."""

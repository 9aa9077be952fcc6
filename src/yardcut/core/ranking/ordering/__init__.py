"""Putting rows in order: keys as bits, packed, sorted in ranges, in memory or on disk."""

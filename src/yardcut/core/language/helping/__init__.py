"""Help for whoever writes: completion, mends of slips, and lines changed piece by piece."""

"""Why: reasons, trees with their counts, what would let more through, mends, the report."""

"""Drawing rows: ranks, chances, weights, places, and how many each group gives."""

"""Benchmarks, run by hand and for a release; they print ratios, since absolute times move with the machine."""

"""Tests of values: comparisons, texts, and their answers as bits."""

"""Putting rows together by groups: which group each row is of, and what an aggregate comes to in each group."""

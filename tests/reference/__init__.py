"""A second truth: the cut language in plain Python over lists of rows, written from docs/language.md alone.

Slow and obvious on purpose. It imports nothing of the package. Where it and the code differ, the document decides.
"""

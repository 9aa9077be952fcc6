"""Delimited text in blocks of whole rows: cut, parsed, counted, read again."""

"""The texts that stand for a missing value in delimited files."""

MISSING_TEXTS: tuple[str, ...] = ("", "NA", "N/A", "n/a", "NULL", "null", "NaN", "nan")
"""Read as missing in a column of any kind, unless a list says otherwise."""

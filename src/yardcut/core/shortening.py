"""Long texts in sentences: their beginning, their end, and how much stands between."""

from __future__ import annotations

MOST, _FIRST, _LAST = 600, 400, 120


def shortened(text: str) -> str:
    """Return a line of text as it is, or its first and last pieces where it is very long.

    >>> shortened("keep x IN (1, 2)")
    'keep x IN (1, 2)'
    """
    if len(text) <= MOST:
        return text
    return f"{text[:_FIRST]} … {len(text) - _FIRST - _LAST:,} characters … {text[-_LAST:]}"

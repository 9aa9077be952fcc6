"""What a pattern of LIKE may be (ISO/IEC 9075-2, 8.5)."""

from __future__ import annotations


def is_whole_pattern(pattern: str, escape: str) -> bool:
    """Tell whether a pattern does not end in the middle of an escape; ``escape`` is one character, or none.

    >>> is_whole_pattern("50!%", "!"), is_whole_pattern("50!", "!"), is_whole_pattern("50!!", "!")
    (True, False, True)
    """
    place = 0
    while escape and place < len(pattern):
        place += 2 if pattern[place] == escape else 1
    return not escape or place == len(pattern)

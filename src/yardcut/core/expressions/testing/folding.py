"""Ignoring case: Unicode simple case folding, one character to one (Unicode Standard, section 3.13)."""

from __future__ import annotations


def simple_fold(text: str) -> str:
    """Fold a text for comparing without regard to case; its length in characters stays the same."""
    if text.isascii():
        return text.lower()
    return "".join(map(_fold_character, text))


def _fold_character(char: str) -> str:
    folded = char.casefold()
    if len(folded) == 1:
        return folded
    lower = char.lower()
    return lower if len(lower) == 1 else char

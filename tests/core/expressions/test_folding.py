"""Ignoring case, one character to one, against what the Unicode Standard says of single characters."""

from __future__ import annotations

import sys

import pytest

from thoroughness import IS_LONG
from yardcut.core.expressions.testing.folding import simple_fold


@pytest.mark.parametrize(
    ("text", "folded"),
    [
        ("OAK", "oak"), ("ÉPICÉA", "épicéa"), ("ẞ", "ß"), ("ß", "ß"), ("İ", "İ"), ("I", "i"), ("ı", "ı"), ("Σς", "σσ"),
        ("ᾈ", "ᾀ"), ("ﬃ", "ﬃ"), ("K", "k"), ("Å", "å"), ("木", "木"),
    ],
)  # fmt: skip
def test_characters_whose_folding_is_known(text: str, folded: str) -> None:
    assert simple_fold(text) == folded


def test_every_character_folds_to_one_that_stays() -> None:
    for number in range(0, sys.maxunicode + 1, 1 if IS_LONG else 7):
        char = chr(number)
        folded = simple_fold(char)
        assert len(folded) == 1, hex(number)
        assert simple_fold(folded) == folded, hex(number)

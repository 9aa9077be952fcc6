"""How it would be said elsewhere, and how it is written here."""

from __future__ import annotations

import pytest

from yardcut.core.language.helping.phrases import phrased_otherwise
from yardcut.core.language.syntax.parsing_lines import parse_statement


@pytest.mark.parametrize(
    ("text", "mended"),
    [
        ("keep species in oak, ash", "keep species IN ('oak', 'ash')"),
        ("keep species in oak", "keep species IN ('oak')"),
        ("make both = concat(species, grade)", "make both = (species || grade)"),
        ("make both = CONCAT( species , '-', grade )", "make both = (species || '-' || grade)"),
    ],
)
def test_a_phrase_is_mended_into_one_that_is_read(text: str, mended: str) -> None:
    found = [line for _, line in phrased_otherwise(text)]
    assert mended in found
    parse_statement(mended)

"""Whatever a line looks like, reading it and looking for its mend takes time in proportion to its length."""

from __future__ import annotations

import time

import pytest

from yardcut.core.errors import ListError
from yardcut.core.language.helping.completing_lines import Completion, Frequent, complete
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.run.explaining.mends_offered import mended
from yardcut.core.values.kinds import Kind

FROZEN_SECONDS = 8.0
"""Of the processor, so that a busy machine does not count."""
LENGTHS = (1_990, 19_000, 99_000)
PIECES = {
    "a text and a letter": ("keep a = '", "x", "'x"),
    "an open text": ("keep a = '", "x", ""),
    "a word": ("keep ", "x", ""),
    "words": ("keep a = ", "oak ", ""),
    "dots": ("keep ", ".", ""),
    "digits": ("keep a > ", "9", ""),
    "a comment": ("keep a > 3 --", "x", ""),
    "equals": ("keep ", "a=", ""),
    "chains": ("keep ", "a<b", ""),
    "minus names": ("columns -a", ",-a", " !"),
    "minus signs": ("columns ", "-", ""),
    "blanks": ("keep", " ", "x"),
    "quotes": ("keep ", "'", ""),
    "double quotes": ("keep ", '"', ""),
    "thousands": ("keep a > 1", ",000", ""),
    "bars": ("keep ", "|", ""),
    "ands": ("keep ", " and ", ""),
    "curly": ("keep a = ", "“x", ""),
    "order by": ("order by ", "a ", ""),
    "stars": ("columns ", "*a", "b"),
}


@pytest.mark.few(3)
@pytest.mark.parametrize("piece", PIECES)
def test_reading_mending_and_completing_a_long_line(piece: str) -> None:
    head, part, tail = PIECES[piece]
    scope = Scope.of_source([("a", Kind.TEXT), ("ab", Kind.NUMBER)])
    values = lambda column: Frequent([("oak wood", 3)], True)  # noqa: E731
    for length in LENGTHS:
        text = head + part * ((length - len(head)) // len(part)) + tail
        before = time.thread_time()
        try:
            parse_statement(text)
        except ListError:
            mended(text, scope, values)
        assert isinstance(complete(text, scope, values), Completion)
        assert time.thread_time() - before < FROZEN_SECONDS, length

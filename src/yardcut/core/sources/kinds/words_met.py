"""Whether a column is text whatever else is in it: enough of its values begin with a letter, as no other kind's do."""

from __future__ import annotations

import re

from yardcut.core.sources.kinds.guessing_kinds import MOST_SET_ASIDE_TEXTS, SET_ASIDE_SHARE
from yardcut.core.sources.kinds.settled_texts import times_of
from yardcut.core.table.stored_column import Column
from yardcut.core.table.vectors import CodedVector

_WORD = re.compile(r"\s*(?!true\b|false\b|yes\b|no\b)[^\W\d_]", re.IGNORECASE).match
_LOOKED_AT = 1 << 12
_SURELY = 20
"""One value in so many at least are words, in the first rows of what is taken for text."""


class WordsMet:
    """Counts the words of a column as its rows come, some at a time."""

    def __init__(self) -> None:
        self._rows = self._words = 0
        self._different: set[str] = set()

    def add(self, column: Column, rows: int) -> None:
        """Look at more rows of it, a column of texts."""
        self._rows += rows
        if self.is_sure:
            return
        vector = column.slice(0, rows)
        if isinstance(vector, CodedVector):
            texts, times = vector.dictionary.texts, times_of(vector.codes, len(vector.dictionary.texts)).tolist()
            met = [(text, count) for text, count in zip(texts, times, strict=True) if count and _WORD(text)]
        else:
            met = [(text, 1) for text in vector.texts()[:_LOOKED_AT] if text and _WORD(text)]
        self._words += sum(count for _, count in met)
        self._different.update(text for text, _ in met[: MOST_SET_ASIDE_TEXTS + 1])

    @property
    def is_sure(self) -> bool:
        """Whether it is text whatever comes: more different words than are ever set aside."""
        return len(self._different) > MOST_SET_ASIDE_TEXTS

    @property
    def is_likely(self) -> bool:
        """Whether so many of its rows are words that it will hardly be anything else."""
        return self.is_sure or self._words * _SURELY >= max(1, self._rows)

    @property
    def is_text(self) -> bool:
        """Whether it is text if these rows are all."""
        return self.is_sure or self._words * SET_ASIDE_SHARE > self._rows

"""What a column that was read as text is after all: once every text of it has been seen."""

from __future__ import annotations

from collections import Counter

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.kinds.day_patterns import PatternCount, candidates, patterns_of_whole
from yardcut.core.sources.kinds.doubts import Doubt, doubt_about_text, lost_code, name_written
from yardcut.core.sources.kinds.guessing_kinds import guess_kind_counted
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.sources.store.builders import TextBuilder
from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import Kind

_CHUNK_ROWS = 1 << 17
_COUNTED_ROWS = 1 << 20
_FIRST_ROWS = 1 << 11
"""So many tell that no pattern fits: of a column of plain texts no more are looked at."""
_MOST_SAID = 3


@dataclass(frozen=True, slots=True)
class SettledTexts:
    """The kind the texts all are of (``None``: they stay text), what is to be said of it, and what may be doubted."""

    declared: DeclaredKind | None = None
    note: str = ""
    doubt: Doubt | None = None


def settled_texts(builder: TextBuilder, name: str, marks: str, *, lost_codes: bool) -> SettledTexts:
    """Find the kind of a whole column of texts, or what it may be.

    ``marks`` are the decimal mark and the mark between thousands; ``lost_codes`` says that ``NA`` was met and read as
    no value.
    """
    if not builder.coded:
        return _of_many(builder, name, marks)
    words = list(builder.words)
    if not words or any(not word.strip() for word in words):
        return SettledTexts()
    counted = Counter(dict(zip(words, times_of(builder.codes(), len(words)).tolist(), strict=True)))
    kind = guess_kind_counted(counted, marks) or Kind.TEXT
    if kind is not Kind.TEXT:
        return SettledTexts(DeclaredKind(kind))
    found = _one_of(patterns_of_whole(counted), name, counted, marks)
    if found.declared is None and found.doubt is None and lost_codes:
        return SettledTexts(doubt=lost_code(name, counted))
    return found


def times_of(codes: Array, count: int) -> Array:
    """Return how often each code from 0 to below ``count`` stands in some codes (integers, -1 for none): int64.

    Some rows at a time: they are counted as numbers of eight bytes, whatever they are kept as.
    """
    times = np.zeros(count, np.int64)
    for start in range(0, len(codes), _COUNTED_ROWS):
        some = codes[start : start + _COUNTED_ROWS]
        times += np.bincount(some[some >= 0], minlength=count)
    return times


def _of_many(builder: TextBuilder, name: str, marks: str) -> SettledTexts:
    """Find the one date pattern that a column of many different texts has, or what it may be by its first ones."""
    first = next((counted for _, texts in builder.read_back(_FIRST_ROWS) if (counted := _counted(texts))), Counter())
    likely = candidates(first)
    if not likely:
        return _one_of([], name, first, marks)
    count = PatternCount(likely, builder.present)
    for _, texts in builder.read_back(_CHUNK_ROWS):
        count.add(_counted(texts))
        if not count.patterns:
            break
    return _one_of(count.found(), name, first, marks)


def _counted(texts: list[str | None]) -> Counter[str]:
    return Counter(text for text in texts if text is not None and text.strip())


def _one_of(patterns: list[DeclaredKind], name: str, counted: Counter[str], marks: str) -> SettledTexts:
    """Take the one date pattern that was found; of several, or none, say what the column may be."""
    if len(patterns) == 1:
        declared = patterns[0]
        return SettledTexts(declared, f"read as {declared.kind} '{declared.patterns[0]}'")
    if not patterns:
        return SettledTexts(doubt=doubt_about_text(name, counted, marks))
    lines = [f"kind {name_written(name)} {each.kind} '{each.patterns[0]}'" for each in patterns[:_MOST_SAID]]
    said = f"may be days in several forms, so it stays text; say {' or '.join(lines)}"
    return SettledTexts(doubt=Doubt(said, tuple(lines)))

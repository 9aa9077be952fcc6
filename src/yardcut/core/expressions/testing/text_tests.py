"""Tests of texts: equality, order, parts, patterns; over dictionaries once a word, over plain bytes in one search."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np

from yardcut.core.expressions.testing.byte_search import LONGEST, places_of
from yardcut.core.expressions.testing.comparing_numbers import OPERATORS
from yardcut.core.expressions.testing.folding import simple_fold
from yardcut.core.expressions.testing.text_patterns import regex_source, simpler
from yardcut.core.language.meaning.bound import TextMatch, TextPair
from yardcut.core.language.meaning.like_patterns import is_whole_pattern
from yardcut.core.table.array_file import Array
from yardcut.core.table.text_keys import TextKeys, plain_of
from yardcut.core.table.vectors import CodedVector, PlainVector, TextVector, gather_plain
from yardcut.core.values.patterns import compiled

_FEW_CONSTANTS = 8
_FEW_CODES = 3


def fold_trimmed(text: str) -> str:
    """Return a text as ``=`` IGNORING CASE sees it: folded, without surrounding blanks."""
    return simple_fold(text.strip())


def compare_text(vector: TextVector, operator: str, constant: str, ignoring_case: bool) -> Array:
    """Return ``vector operator constant`` row by row, by code point; arbitrary where there is no value."""
    if ignoring_case:
        wanted = fold_trimmed(constant)
        return _by_word(vector, ("compare", operator, constant, True),
                        lambda word: OPERATORS[operator](fold_trimmed(word), wanted))  # fmt: skip
    if isinstance(vector, CodedVector):
        return _by_word(
            vector, ("compare", operator, constant, False), lambda word: OPERATORS[operator](word, constant)
        )
    if operator in ("=", "<>"):
        found = _equal(vector, constant.encode())
        return found if operator == "=" else ~found
    return _compare_bytes(vector, operator, constant.encode())


def one_of_texts(vector: TextVector, constants: tuple[str, ...], ignoring_case: bool) -> Array:
    """Return where a text equals one of some constants."""
    if ignoring_case:
        folded = frozenset(map(fold_trimmed, constants))
        return _by_word(vector, ("one_of", constants, True), lambda word: fold_trimmed(word) in folded)
    if isinstance(vector, PlainVector) and len(constants) <= _FEW_CONSTANTS:
        found = np.zeros(len(vector), dtype=np.bool_)
        for constant in constants:
            found |= _equal(vector, constant.encode())
        return found
    if isinstance(vector, PlainVector):
        return keys_of(constants).find(vector) >= 0
    wanted = frozenset(constants)
    return _by_word(vector, ("one_of", constants, False), wanted.__contains__)


@lru_cache(maxsize=16)
def keys_of(constants: tuple[str, ...]) -> TextKeys:
    """Return constants to be looked for among; a round asks for them at each of its parts."""
    return TextKeys.of(plain_of(constants))


def match_text(vector: TextVector, test: TextMatch) -> Array:
    """Return where a text contains, starts or ends with, is like, or matches a pattern."""
    test = simpler(test)
    if isinstance(vector, PlainVector):
        if test.how == "contains" and not test.ignoring_case:
            return _contains(vector, test.pattern.encode())
        if test.how in ("contains", "regex") and not _crosses_lines(test.pattern):
            return _search(vector, regex_source(test))
        if test.how in ("starts", "ends") and not test.ignoring_case:
            return _at_edge(vector, test.pattern.encode(), at_end=test.how == "ends")
    key = (test.how, test.pattern, test.ignoring_case, test.option)
    return _by_word(vector, key, word_test(test))


def word_test(test: TextMatch) -> Callable[[str], bool]:
    """Return the test of one text."""
    pattern = test.pattern
    if test.how in ("like", "regex"):
        source = regex_source(test)
        if test.how == "like":
            full = compiled(source).fullmatch
            return lambda word: full(word.encode()) is not None
        search = compiled(source).search
        return lambda word: search(word.encode()) is not None
    if test.ignoring_case:
        wanted = simple_fold(pattern)
        match test.how:
            case "contains":
                return lambda word: wanted in simple_fold(word)
            case "starts":
                return lambda word: simple_fold(word.lstrip()).startswith(wanted)
            case _:
                return lambda word: simple_fold(word.rstrip()).endswith(wanted)
    match test.how:
        case "contains":
            return lambda word: pattern in word
        case "starts":
            return lambda word: word.startswith(pattern)
        case _:
            return lambda word: word.endswith(pattern)


def match_pairs(texts: Sequence[str | None], parts: Sequence[str | None], test: TextPair) -> tuple[Array, Array | None]:
    """Return where each text passes a test with the part beside it, and where that is no pattern (``None``: nowhere).

    Where either is missing the answer is arbitrary.
    """
    tests: dict[str, Callable[[str], bool] | None] = {}
    found, wrong = np.zeros(len(texts), dtype=np.bool_), np.zeros(len(texts), dtype=np.bool_)
    for row, (text, part) in enumerate(zip(texts, parts, strict=True)):
        if text is None or part is None:
            continue
        if part not in tests:
            whole = test.how != "like" or is_whole_pattern(part, test.option)
            one = TextMatch(test.how, test.value, part, test.ignoring_case, test.option)
            tests[part] = word_test(simpler(one)) if whole else None
        passes = tests[part]
        if passes is None:
            wrong[row] = True
        else:
            found[row] = passes(text)
    return found, wrong if wrong.any() else None


def _by_word(vector: TextVector, key: object, test: Callable[[str], bool]) -> Array:
    if isinstance(vector, CodedVector):
        table = vector.dictionary.kept(
            key, lambda words: np.fromiter((*map(test, words), False), dtype=np.bool_, count=len(words) + 1)
        )
        true = np.flatnonzero(table[:-1])
        if len(true) <= _FEW_CODES:  # comparing codes is ten times faster than looking each up
            if not len(true):
                return np.zeros(len(vector), dtype=np.bool_)
            found: Array = vector.codes == true[0]
            for code in true[1:].tolist():
                found |= vector.codes == code
            return found
        return np.asarray(table[vector.codes])
    texts = vector.texts()
    return np.fromiter((text is not None and test(text) for text in texts), dtype=np.bool_, count=len(texts))


def _equal(vector: PlainVector, wanted: bytes) -> Array:
    rows = np.flatnonzero(vector.lengths() == len(wanted))
    starts = np.asarray(vector.offsets[rows])
    for index, byte in enumerate(wanted):
        alike = vector.data[starts + index] == byte
        rows, starts = rows[alike], starts[alike]
        if not len(rows):
            break
    found = np.zeros(len(vector), dtype=np.bool_)
    found[rows] = True
    return found


def _at_edge(vector: PlainVector, wanted: bytes, *, at_end: bool) -> Array:
    rows = np.flatnonzero(vector.lengths() >= len(wanted))
    starts = np.asarray(vector.offsets[rows + 1] - 1 - len(wanted) if at_end else vector.offsets[rows])
    for index, byte in enumerate(wanted):
        alike = vector.data[starts + index] == byte
        rows, starts = rows[alike], starts[alike]
    found = np.zeros(len(vector), dtype=np.bool_)
    found[rows] = True
    return found


def prefixes(vector: PlainVector, skip: int = 0) -> Array:
    """Return bytes ``skip`` to ``skip + 8`` of every text as an unsigned number that orders as the bytes do.

    Eight bytes are taken at once from wherever they begin; those behind a text's end are zero.
    """
    first, last = int(vector.offsets[0]), int(vector.offsets[-1])
    data = np.concatenate((vector.data[first:last], np.zeros(8, dtype=np.uint8)))
    words: Array = np.ndarray((last - first + 1,), dtype=">u8", buffer=data, strides=(1,))
    starts = np.asarray(vector.offsets[:-1], dtype=np.int64) + (skip - first)
    ends = np.asarray(vector.offsets[1:], dtype=np.int64) - (first + 1)
    found: Array = words[np.minimum(starts, last - first)].astype(np.uint64)
    beyond = np.clip(starts + 8 - ends, 0, 8)
    found &= _MASKS[beyond]
    return found


_MASKS = np.array([(1 << 64) - (1 << (8 * beyond)) for beyond in range(9)], dtype=np.uint64)
"""Masks that leave all of eight bytes but the last few."""


def _compare_bytes(vector: PlainVector, operator: str, wanted: bytes) -> Array:
    """Order by UTF-8 bytes is order by code point. Eight bytes at a time; only rows that still tie go on."""
    compare = OPERATORS[operator]
    result = np.zeros(len(vector), dtype=np.bool_)
    rows = np.arange(len(vector))
    skip = 0
    while len(rows):
        some = vector if len(rows) == len(vector) else gather_plain(vector, rows)
        keys = prefixes(some, skip)
        edge = np.uint64(int.from_bytes(wanted[skip : skip + 8].ljust(8, b"\0"), "big"))
        ties = keys == edge
        result[rows] = compare(keys, edge)
        sizes = some.lengths()
        done = ties & ((sizes <= skip + 8) | (len(wanted) <= skip + 8))
        # all bytes are equal as far as the shorter text goes: the shorter one comes first
        result[rows[done]] = compare(sizes[done], len(wanted))
        rows = rows[ties & ~done]
        skip += 8
    return result


_LINE_SAFE_ESCAPES = frozenset("dwbpP.+*?()[]{}|/-\\^$\"' ")


def _crosses_lines(pattern: str) -> bool:
    """Tell whether a pattern may match, or anchor at, the line feed that separates the texts."""
    place = 0
    while place < len(pattern):
        char = pattern[place]
        if char == "\\":
            if pattern[place + 1 : place + 2] not in _LINE_SAFE_ESCAPES:
                return True
            place += 2
            continue
        if char in "\n^$" or pattern.startswith(("[^", "(?"), place):
            return True
        place += 1
    return False


def _contains(vector: PlainVector, wanted: bytes) -> Array:
    found = np.zeros(len(vector), dtype=np.bool_)
    if not wanted:
        return ~found
    if len(wanted) > LONGEST:
        return _contains_long(vector, wanted)
    first, last = int(vector.offsets[0]), int(vector.offsets[-1])
    ends = np.asarray(vector.offsets[1:]) - first
    for places in places_of(vector.data[first:last], wanted):
        rows = np.searchsorted(ends, places, side="right")
        within = places + len(wanted) < ends[rows]  # a line feed stands behind each text
        found[rows[within]] = True
    return found


def _contains_long(vector: PlainVector, wanted: bytes) -> Array:
    found = np.zeros(len(vector), dtype=np.bool_)
    window = vector.window()
    ends = np.asarray(vector.offsets[1:]) - int(vector.offsets[0])
    place = window.find(wanted)
    while place >= 0:
        row = int(np.searchsorted(ends, place, side="right"))
        end = int(ends[row])
        if place + len(wanted) < end:
            found[row] = True
            place = window.find(wanted, end)
        else:
            place = window.find(wanted, place + 1)
    return found


def _search(vector: PlainVector, source: str) -> Array:
    """Search all texts in one go; a match that is empty or reaches over a separator sends its row to be tried alone."""
    pattern = compiled(source)
    found = np.zeros(len(vector), dtype=np.bool_)
    window = vector.window()
    ends = np.asarray(vector.offsets[1:]) - int(vector.offsets[0])
    place = 0
    while place < len(window):
        match = pattern.search(window, place)
        if match is None:
            break
        row = int(np.searchsorted(ends, match.start(), side="right"))
        if row >= len(ends):
            break
        end = int(ends[row])
        start = int(ends[row - 1]) if row else 0
        if match.end() < end and match.end() > match.start():
            found[row] = True
        else:
            found[row] = pattern.search(window[start : end - 1]) is not None
        place = end
    return found

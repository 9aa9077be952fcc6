"""Functions of texts: one text at a time, and for a column of few texts each of these once."""

from __future__ import annotations

import itertools
import math
import operator
import re
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from yardcut.core.expressions.computing.casting import exact_parser, parser
from yardcut.core.expressions.testing.folding import simple_fold
from yardcut.core.language.meaning import bound as b
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts
from yardcut.core.table.vectors import (
    CodedVector,
    Dictionary,
    NumericVector,
    PlainVector,
    Vector,
    join_texts,
)
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

_MOST_WORDS = 1 << 16
"""Of combinations of texts for which a function is worked out beforehand; with more, row by row."""

Word = Callable[..., Any]
"""Works a result out of single values, none of them missing; ``None``: there is no answer."""


def substring(text: str, start: int, length: int | None = None) -> str | None:
    """Return characters from the ``start``-th on (ISO/IEC 9075-2, 6.30): what lies before the first counts, too."""
    if length is not None and length < 0:
        return None
    end = len(text) if length is None else max(0, start - 1 + length)
    return text[max(0, start - 1) : end]


def position(part: str, text: str) -> int:
    """Return where a part begins in a text, from 1; 0 where it does not stand there."""
    return text.find(part) + 1


_DIGITS = re.compile("[0-9]+")
_SHORT = 8


def as_numbers(text: str) -> str:
    """Return a text in whose place texts come in the order of the numbers in them, whatever their number of digits.

    Each number stands without leading zeros behind a character that tells how many digits it has; that character is a
    digit too, so that numbers stay where digits are among other characters.
    """
    return _DIGITS.sub(_sized, text)


def _sized(found: re.Match[str]) -> str:
    digits = found[0].lstrip("0") or "0"
    size = len(digits)
    return f"{size}{digits}" if size <= _SHORT else f"9{chr(min(size, 0xD7FF))}{digits}"


def _trim(side: str) -> Word:
    strip = {"BOTH": str.strip, "LEADING": str.lstrip, "TRAILING": str.rstrip}[side]
    return lambda text, *character: strip(text, *character)


_WORDS: dict[str, Word] = {
    "UPPER": str.upper,
    "LOWER": str.lower,
    "TRIM BOTH": _trim("BOTH"),
    "TRIM LEADING": _trim("LEADING"),
    "TRIM TRAILING": _trim("TRAILING"),
    "CHAR_LENGTH": len,
    "FOLD": simple_fold,
    "AS NUMBERS": as_numbers,
    "SUBSTRING": substring,
    "POSITION": position,
    "||": operator.add,
}


def word_function(call: b.Call) -> Word | None:
    """Return the function of single values a call stands for, if it is one of texts."""
    if call.function == "CAST" and call.arguments[0].kind is Kind.TEXT:
        return parser(call.kind)
    if call.function == b.READ_EXACTLY:
        return exact_parser(call.kind)
    if call.function in ("GREATEST", "LEAST") and call.kind is Kind.TEXT:
        return max if call.function == "GREATEST" else min
    return _WORDS.get(call.function)


def call_on_texts(call: b.Call, work: Word, vectors: Sequence[Vector | None], rows: int) -> Vector:
    """Work a call out; ``vectors`` has ``None`` for arguments that are constants."""
    varying = [place for place, vector in enumerate(vectors) if vector is not None]
    constants = [part.value if isinstance(part, b.Constant) else None for part in call.arguments]
    vector = vectors[varying[0]] if len(varying) == 1 else None
    coded = [each for each in vectors if isinstance(each, CodedVector)]
    if coded and len(coded) == len(varying) and math.prod(len(each.dictionary) + 1 for each in coded) <= _MOST_WORDS:

        def of_words(*words: str) -> Any:
            waiting = iter(words)
            return work(*(each if at not in varying else next(waiting) for at, each in enumerate(constants)))

        return _by_code(call, of_words, _as_one(coded), (call.function, tuple(map(repr, constants))))
    if call.function == "||" and not coded:
        return _joined_texts(call, vectors, rows)
    if isinstance(vector, PlainVector) and call.function in ("UPPER", "LOWER"):
        data = vector.window()
        if data.isascii():
            changed = np.frombuffer(data.upper() if call.function == "UPPER" else data.lower(), dtype=np.uint8)
            return PlainVector(np.asarray(vector.offsets) - int(vector.offsets[0]), changed, vector.missing)
    columns = [[constants[place]] * rows if each is None else plain_values(each) for place, each in enumerate(vectors)]
    return vector_of(call.kind, [None if None in row else work(*row) for row in zip(*columns, strict=True)])


def plain_values(vector: Vector) -> list[Any]:
    """Return values as plain Python, ``None`` where there is none; days and moments as integers."""
    if not isinstance(vector, NumericVector):
        return vector.texts()
    mask = vector.missing_mask()
    items: list[Any] = vector.values.tolist()
    if mask is None:
        return items
    return [None if gone else item for item, gone in zip(items, mask.tolist(), strict=True)]


def vector_of(kind: Kind, items: Sequence[Any]) -> NumericVector | PlainVector:
    """Return plain values (``None``: missing) as a vector."""
    gone = np.fromiter((item is None for item in items), dtype=np.bool_, count=len(items))
    missing = gone if gone.any() else None
    if kind is Kind.TEXT:
        offsets, data = join_texts([(item or "").encode() for item in items])
        return PlainVector(offsets, data, missing)
    dtype = STORAGE_DTYPE[kind]
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.fromiter((np.nan if item is None else item for item in items), dtype, len(items)))
    return NumericVector(kind, np.fromiter((item or 0 for item in items), dtype, len(items)), missing)


def _as_one(vectors: Sequence[CodedVector]) -> tuple[Array, Dictionary, tuple[Dictionary, ...], bool]:
    """Return one code for the texts of several columns together (-1: one is missing), and whose texts they are."""
    first, *others = vectors
    codes: Array = first.codes
    gone: Array | None = None
    for each in others:
        absent = (codes < 0) | (each.codes < 0)
        gone = absent if gone is None else gone | absent
        codes = codes.astype(np.int64) * len(each.dictionary) + each.codes
    if gone is not None:
        codes = np.where(gone, -1, codes)
    return codes, first.dictionary, tuple(each.dictionary for each in others), all(each.complete for each in vectors)


def _by_code(
    call: b.Call, of_words: Word, together: tuple[Array, Dictionary, tuple[Dictionary, ...], bool], key: object
) -> Vector:
    """Work a call out once for each text there can be; what it gives is kept with the first column's texts."""
    codes, dictionary, others, complete = together

    def results(texts: list[str]) -> list[Any]:
        return [of_words(*words) for words in itertools.product(texts, *(other.texts for other in others))]

    kept = (call.kind, key, others)
    if call.kind is Kind.TEXT:
        found, recoded = dictionary.kept(kept, lambda texts: _recoded(results(texts)))
        return CodedVector(recoded[codes], found, complete and bool((recoded[:-1] >= 0).all()))
    vector = dictionary.kept(kept, lambda texts: vector_of(call.kind, [*results(texts), None]))
    assert isinstance(vector, NumericVector)
    mask = vector.missing_mask()
    assert mask is not None  # that of the last, where there is no text
    gone = mask[codes]
    return NumericVector(call.kind, vector.values[codes], gone if gone.any() else None)


def _joined_texts(call: b.Call, vectors: Sequence[Vector | None], rows: int) -> PlainVector:
    """Put the bytes of plain texts behind each other, row by row."""
    parts = []
    for part, vector in zip(call.arguments, vectors, strict=True):
        if isinstance(vector, PlainVector):
            parts.append((np.asarray(vector.offsets[:-1], dtype=np.int64), vector.lengths(), vector.data))
        else:
            assert isinstance(part, b.Constant)
            one = np.frombuffer(str(part.value).encode(), dtype=np.uint8)
            parts.append((np.zeros(rows, dtype=np.int64), np.full(rows, len(one)), one))
    offsets = np.zeros(rows + 1, dtype=np.int64)
    np.cumsum(sum((sizes for _, sizes, _ in parts), np.ones(rows, dtype=np.int64)), out=offsets[1:])
    data = np.full(int(offsets[-1]), 10, dtype=np.uint8)
    at = offsets[:-1].copy()
    for starts, sizes, source in parts:
        copy_texts(source, starts, sizes, data, at)
        at += sizes
    gone = [vector.missing for vector in vectors if isinstance(vector, PlainVector) and vector.missing is not None]
    return PlainVector(offsets, data, np.logical_or.reduce(gone) if gone else None)


def _recoded(results: list[str | None]) -> tuple[Dictionary, Any]:
    """Return the distinct results, and for each text, and none behind them, the code of its result (-1: none)."""
    places: dict[str, int] = {}
    codes = [-1 if result is None else places.setdefault(result, len(places)) for result in results]
    return Dictionary(list(places)), np.array([*codes, -1], dtype=np.int32)

"""Functions of texts: one text at a time, and for a column of few texts each of these once."""

from __future__ import annotations

import operator
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from yardcut.core.expressions.casting import parser
from yardcut.core.language import bound as b
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, PlainVector, Vector, join_texts
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

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
    "SUBSTRING": substring,
    "POSITION": position,
    "||": operator.add,
}


def word_function(call: b.Call) -> Word | None:
    """Return the function of single values a call stands for, if it is one of texts."""
    if call.function == "CAST" and call.arguments[0].kind is Kind.TEXT:
        return parser(call.kind)
    if call.function in ("GREATEST", "LEAST") and call.kind is Kind.TEXT:
        return max if call.function == "GREATEST" else min
    return _WORDS.get(call.function)


def call_on_texts(call: b.Call, work: Word, vectors: Sequence[Vector | None], rows: int) -> Vector:
    """Work a call out; ``vectors`` has ``None`` for arguments that are constants."""
    varying = [place for place, vector in enumerate(vectors) if vector is not None]
    constants = [part.value if isinstance(part, b.Constant) else None for part in call.arguments]
    vector = vectors[varying[0]] if len(varying) == 1 else None
    if isinstance(vector, CodedVector):
        place = varying[0]

        def of_word(text: str) -> Any:
            return work(*constants[:place], text, *constants[place + 1 :])

        return _by_code(call, of_word, vector, (call.function, tuple(map(repr, constants))))
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


def _by_code(call: b.Call, of_word: Word, vector: CodedVector, key: object) -> Vector:
    if call.kind is Kind.TEXT:
        found, codes = vector.dictionary.kept((call.kind, key), lambda texts: _recoded(list(map(of_word, texts))))
        return CodedVector(codes[vector.codes], found, vector.complete and bool((codes[:-1] >= 0).all()))
    results = vector.dictionary.kept((call.kind, key), lambda texts: vector_of(call.kind, [*map(of_word, texts), None]))
    assert isinstance(results, NumericVector)
    mask = results.missing_mask()
    assert mask is not None  # that of the last, where there is no text
    gone = mask[vector.codes]
    return NumericVector(call.kind, results.values[vector.codes], gone if gone.any() else None)


def _recoded(results: list[str | None]) -> tuple[Dictionary, Any]:
    """Return the distinct results, and for each text, and none behind them, the code of its result (-1: none)."""
    places: dict[str, int] = {}
    codes = [-1 if result is None else places.setdefault(result, len(places)) for result in results]
    return Dictionary(list(places)), np.array([*codes, -1], dtype=np.int32)

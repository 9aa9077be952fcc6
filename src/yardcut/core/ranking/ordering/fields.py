"""Keys as fields of unsigned bits that compare as the key does."""

from __future__ import annotations

import hashlib
from dataclasses import field
from enum import Enum
from typing import Any

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.testing.text_tests import prefixes
from yardcut.core.language.meaning.bound import Key
from yardcut.core.language.meaning.bound_known import ONE_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, PlainVector, Vector
from yardcut.core.table.window import Span

_ALL_ONES = np.uint64(0xFFFFFFFFFFFFFFFF)
_SIGN = np.uint64(1 << 63)
_SCALES = (1, 10, 100, 1000)
_MOST_SCALED = float(2**52)

Field = tuple[Array, int]
"""Unsigned values (uint64) and how many of their low bits count."""


@dataclass(slots=True)
class KeyRange:
    """What is known of a key's values over some rows.

    ``scales`` holds the powers of ten that make every number whole; ``texts`` the distinct texts of dictionaries,
    kept by dictionary so that the parts of one file share them; ``longest`` the size of the longest plain text.
    """

    least: int | float | None = None
    most: int | float | None = None
    any_missing: bool = False
    scales: tuple[int, ...] = _SCALES
    dictionaries: tuple[Dictionary, ...] = ()
    longest: int = -1

    def merged(self, other: KeyRange) -> KeyRange:
        """Return the range over both sets of rows."""
        known = [range_ for range_ in (self, other) if range_.least is not None]
        kept = {id(dictionary): dictionary for dictionary in (*self.dictionaries, *other.dictionaries)}
        return KeyRange(
            min((range_.least for range_ in known), default=None),  # type: ignore[type-var]
            max((range_.most for range_ in known), default=None),  # type: ignore[type-var]
            self.any_missing or other.any_missing,
            tuple(scale for scale in self.scales if scale in other.scales),
            tuple(kept.values()),
            max(self.longest, other.longest),
        )


@dataclass(frozen=True, slots=True)
class RangeRound(Round[list[KeyRange], list[KeyRange]]):
    """Finds the range of each key over the whole source."""

    keys: tuple[Key, ...]

    def scan(self, table: Table, part: Part) -> list[KeyRange]:
        """Look at the keys in one part."""
        return [_range(evaluate(key.value, Span(table, part.first_row, part.end_row))) for key in self.keys]

    def merge(self, one: list[KeyRange], other: list[KeyRange]) -> list[KeyRange]:
        """Join ranges key by key."""
        return [first.merged(second) for first, second in zip(one, other, strict=True)]

    def finish(self, state: list[KeyRange]) -> list[KeyRange]:
        """Return a range for each key."""
        return state


def _range(vector: Vector) -> KeyRange:
    mask = vector.missing_mask()
    found = KeyRange(any_missing=mask is not None)
    if isinstance(vector, CodedVector):
        found.dictionaries = (vector.dictionary,)
        return found
    if isinstance(vector, PlainVector):
        found.longest = int(vector.lengths().max(initial=0))
        return found
    values = vector.values if mask is None else vector.values[~mask]
    if not len(values):
        return found
    found.least, found.most = values.min().item(), values.max().item()
    if values.dtype.kind == "f":
        found.scales = _whole_at(values)
    return found


def _whole_at(values: Array) -> tuple[int, ...]:
    """Return the powers of ten by which every value becomes a whole number that gives the value back exactly."""
    if not np.isfinite(values).all() or np.abs(values).max() >= _MOST_SCALED / _SCALES[-1]:
        return ()
    for index, scale in enumerate(_SCALES):
        if (np.rint(values * scale) / scale == values).all():
            return _SCALES[index:]
    return ()


def ordered_bits(values: Array) -> Array:
    """Return doubles as words (uint64) that order as they do, with one zero (Herf, "Radix tricks", 2001)."""
    flat = values + 0.0
    bits: Array = flat.view(np.int64)
    flips = bits >> 63
    flips |= np.int64(-(1 << 63))
    bits ^= flips
    return bits.view(np.uint64)


def doubles_of(words: Array) -> Array:
    """Return the doubles whose :func:`ordered_bits` are these words."""
    bits = np.where(words & _SIGN, words ^ _SIGN, ~words)
    return bits.view(np.float64)


@dataclass(frozen=True, slots=True, eq=False)
class TailRanks:
    """The places, among each other, of what texts have behind the bytes that are looked at.

    ``ranks`` (from 1) are those of the rows ``row_ids`` (ascending), ``count`` of them are different. All other rows
    have nothing there: 0.
    """

    row_ids: Array
    ranks: Array
    count: int

    def field(self, first_row: int, end_row: int, descending: bool) -> Field:
        """Return the ranks of some rows."""
        low, high = np.searchsorted(self.row_ids, (first_row, end_row)).tolist()
        found = np.zeros(end_row - first_row, dtype=np.uint64)
        found[self.row_ids[low:high] - first_row] = self.ranks[low:high]
        return (np.uint64(self.count) - found if descending else found), max(1, self.count.bit_length())


class Encoding(Enum):
    """How the values of a key become bits that order as they do."""

    RANGE = "counted from one end of their range"
    SCALED = "numbers that a power of ten makes whole, counted so"
    DOUBLE = "the bits of doubles"
    RANKS = "each text's place in code point order"
    WIDE = "64 bits and one for a missing value"
    WHOLE = "64-bit integers none of which is missing"
    BYTES = "the bytes of texts"


@dataclass(frozen=True, slots=True)
class KeyPlan:
    """How one key is encoded.

    ``ranks`` gives each text's place in code point order, for a key of few texts, ``ranks_mark`` a digest of
    them; ``row_ranks`` a place for each row of the source, for long texts. Of those whose bytes are the key ``longest``
    count at most, and ``tails`` rank what stands behind them.
    """

    key: Key
    encoding: Encoding
    least: int = 0
    span: int = 0
    scale: int = 1
    any_missing: bool = False
    ranks: Any = None
    ranks_mark: str = ""
    row_ranks: Any = field(default=None, metadata=ONE_A_ROW)
    longest: int = 0
    tails: TailRanks | None = None

    def fields(self, table: Table, first_row: int, end_row: int) -> list[Field]:
        """Return the key of some rows as fields, the most significant first."""
        vector = evaluate(self.key.value, Span(table, first_row, end_row))
        if self.encoding in (Encoding.RANGE, Encoding.SCALED, Encoding.RANKS):
            return [self._ranged(self._whole(vector, first_row, end_row), vector.missing_mask())]
        if self.encoding is Encoding.DOUBLE:
            assert isinstance(vector, NumericVector)
            return [(self._double(vector.values), 64)]
        if self.encoding is Encoding.WHOLE:
            assert isinstance(vector, NumericVector)
            word = vector.values.astype(np.int64).view(np.uint64) ^ _SIGN
            return [(~word if self.key.descending else word, 64)]
        if self.encoding is Encoding.WIDE:
            return self._wide(vector)
        assert isinstance(vector, PlainVector)
        fields = self._bytes(vector)
        return fields if self.tails is None else [*fields, self.tails.field(first_row, end_row, self.key.descending)]

    def fields_of(self, vector: NumericVector, rows: Array) -> list[Field]:
        """Return the key of some rows of a vector as fields; only for doubles."""
        return [(self._double(np.asarray(vector.values[rows])), 64)]

    def _whole(self, vector: Vector, first_row: int, end_row: int) -> Array:
        if self.row_ranks is not None:
            ranked: Array = self.row_ranks[first_row:end_row]
            return ranked
        if isinstance(vector, CodedVector):
            table = vector.dictionary.kept(("rank", self.ranks_mark), self._rank_table)
            return np.asarray(table[vector.codes])
        assert isinstance(vector, NumericVector)
        if self.encoding is Encoding.SCALED:
            return np.asarray(np.nan_to_num(np.rint(vector.values * self.scale)), dtype=np.int64)
        if vector.values.dtype.kind == "f":  # counted from one end of a range: no row has a value
            return np.zeros(len(vector.values), dtype=np.int64)
        return np.asarray(vector.values)

    def _rank_table(self, texts: list[str]) -> Array:
        return np.fromiter((*(self.ranks[text] for text in texts), 0), dtype=np.int64, count=len(texts) + 1)

    def _ranged(self, values: Array, mask: Array | None) -> Field:
        """Count from one end of the range; a missing value takes the code before or behind it."""
        wide = values.astype(np.int64).view(np.uint64) - np.uint64(self.least % (1 << 64))
        if self.key.descending:
            wide = np.uint64(self.span) - wide
        codes = self.span + 1
        if self.any_missing:
            codes += 1
            if self.key.nulls_first:
                wide += np.uint64(1)
            if mask is not None:
                wide[mask] = np.uint64(0 if self.key.nulls_first else self.span + 1)
        return wide, max(1, (codes - 1).bit_length())

    def _wide(self, vector: Vector) -> list[Field]:
        """Integers that range over nearly all of 64 bits leave no code for missing values: one bit stands apart."""
        assert isinstance(vector, NumericVector)
        word = vector.values.astype(np.int64).view(np.uint64) ^ _SIGN
        if self.key.descending:
            word = ~word
        flag = np.zeros(len(word), dtype=np.uint64)
        if vector.missing is not None:
            flag[vector.missing] = 1
            word[vector.missing] = 0
        return [(1 - flag if self.key.nulls_first else flag, 1), (word, 64)]

    def _double(self, values: Array) -> Array:
        """Return words that order as the values do; one code for missing values."""
        ordered = ordered_bits(values)
        if self.key.descending:
            np.invert(ordered, out=ordered)
        gone = np.isnan(values)
        if gone.any():
            ordered[gone] = np.uint64(0) if self.key.nulls_first else _ALL_ONES
        return ordered

    def thresholds(self, limits: Array) -> Array | None:
        """Return the values (doubles) at which this key's first word reaches some limits, or ``None``.

        Comparing values with them is far cheaper than making a word of each row that is then passed over. Only for
        doubles without missing values; a limit that rules nothing out becomes an infinity.
        """
        if self.encoding is not Encoding.DOUBLE:
            return None
        words = ~limits if self.key.descending else limits
        found = doubles_of(words)
        open_ended = limits == _ALL_ONES
        found[open_ended] = -np.inf if self.key.descending else np.inf
        return found

    def _bytes(self, vector: PlainVector) -> list[Field]:
        fields: list[Field] = []
        mask = vector.missing_mask()
        if self.any_missing:
            flag = np.zeros(len(vector), dtype=np.uint64) if mask is None else mask.astype(np.uint64)
            fields.append((1 - flag if self.key.nulls_first else flag, 1))
        for skip in range(0, self.longest, 8):
            width = min(8, self.longest - skip) * 8
            word = prefixes(vector, skip) >> np.uint64(64 - width)
            limit = np.uint64((1 << width) - 1)
            fields.append((limit - word if self.key.descending else word, width))
        sizes = np.minimum(vector.lengths(), self.longest).astype(np.uint64)
        bits = max(1, self.longest.bit_length())
        fields.append((np.uint64(self.longest) - sizes if self.key.descending else sizes, bits))
        return fields


def text_ranks(dictionaries: tuple[Dictionary, ...]) -> tuple[dict[str, int], str]:
    """Return each text's place in code point order among the texts of all dictionaries, and a digest of them."""
    texts = sorted({text for dictionary in dictionaries for text in dictionary.texts})
    mark = hashlib.blake2b("\n".join(map(repr, texts)).encode("utf-8", "replace"), digest_size=16).hexdigest()
    return {text: rank for rank, text in enumerate(texts)}, mark

"""Values of one column for some rows, in memory or mapped."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Hashable, Sequence
from typing import Any, TypeVar

import numpy as np

from yardcut.core.cached import Kept
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class NumericVector:
    """Values of any kind but text.

    ``values`` holds one item a row in any width of the kind's dtype; ``missing`` is True where there is no
    value, or ``None`` when every row has one. For numbers a NaN is a missing value and ``missing`` is ``None``.
    ``complete`` says that every row is known to have a value, so that nobody needs to look; ``zone`` whose clock shows
    instants.
    """

    kind: Kind
    values: Array
    missing: Array | None = None
    complete: bool = False
    zone: str = ""

    def __len__(self) -> int:
        return len(self.values)

    def missing_mask(self) -> Array | None:
        """Return True where there is no value, or ``None`` when nothing is missing."""
        if self.kind is Kind.NUMBER and self.missing is None and not self.complete:
            mask = np.isnan(self.values)
            return mask if mask.any() else None
        return self.missing

    def texts(self) -> list[str | None]:
        """Write every value as text, ``None`` where there is no value."""
        write = formatter(self.kind, self.zone)
        mask = self.missing_mask()
        items = self.values.tolist()
        if mask is None:
            return [write(item) for item in items]
        return [None if gone else write(item) for item, gone in zip(items, mask.tolist(), strict=True)]


Result = TypeVar("Result")
_KEPT_RESULTS = 64


class Dictionary:
    """The distinct texts of a coded column, in order of first appearance."""

    def __init__(self, texts: Sequence[str]) -> None:
        self.texts = list(texts)
        self._ranks: Array | None = None
        self._kept: Kept[Hashable, Any] = Kept(_KEPT_RESULTS)

    def kept(self, key: Hashable, compute: Callable[[list[str]], Result]) -> Result:
        """Return what is worked out of all the texts: once for each key, while it is used among many."""
        return self._kept.get_or(key, lambda: compute(self.texts))  # type: ignore[no-any-return]

    def __len__(self) -> int:
        return len(self.texts)

    def ranks(self) -> Array:
        """Return, for each code, the text's place in code point order (uint32), from 0."""
        if self._ranks is None:
            # UTF-8 keeps code point order; surrogates cannot occur in decoded text
            order = sorted(range(len(self.texts)), key=self.texts.__getitem__)
            ranks = np.empty(len(order), dtype=np.uint32)
            ranks[order] = np.arange(len(order), dtype=np.uint32)
            self._ranks = ranks
        return self._ranks


@dataclass(frozen=True, slots=True)
class CodedVector:
    """Texts as small integers into a dictionary; -1 where there is no value, which ``complete`` rules out."""

    codes: Array
    dictionary: Dictionary
    complete: bool = False
    kind: Kind = Kind.TEXT

    def __len__(self) -> int:
        return len(self.codes)

    def missing_mask(self) -> Array | None:
        """Return True where there is no value, or ``None`` when nothing is missing."""
        if self.complete:
            return None
        mask = self.codes < 0
        return mask if mask.any() else None

    def texts(self) -> list[str | None]:
        """Return every text, ``None`` where there is no value."""
        words = self.dictionary.texts
        return [words[code] if code >= 0 else None for code in self.codes.tolist()]

    def in_use(self) -> CodedVector:
        """Return the same texts, of a dictionary that is not longer than they are: it may be that of very many rows."""
        if len(self.dictionary) <= len(self.codes):
            return self
        used, codes = np.unique(self.codes, return_inverse=True)
        gone = int(len(used) > 0 and used[0] < 0)
        words = self.dictionary.texts
        return CodedVector(codes - gone, Dictionary([words[code] for code in used[gone:].tolist()]), self.complete)


@dataclass(frozen=True, slots=True)
class PlainVector:
    """Texts as UTF-8 bytes, each followed by one line feed.

    Row ``i`` is ``data[offsets[i] : offsets[i + 1] - 1]``. The separator lets one search over all bytes find
    matches without crossing from one row into the next.
    """

    offsets: Array
    data: Array
    missing: Array | None = None
    kind: Kind = Kind.TEXT

    def __len__(self) -> int:
        return len(self.offsets) - 1

    def missing_mask(self) -> Array | None:
        """Return True where there is no value, or ``None`` when nothing is missing."""
        return self.missing

    def lengths(self) -> Array:
        """Return the size of each text in bytes."""
        result: Array = np.diff(self.offsets) - 1
        return result

    def window(self) -> bytes:
        """Return the bytes of all these rows, separators included."""
        return self.data[int(self.offsets[0]) : int(self.offsets[-1])].tobytes()

    def texts(self) -> list[str | None]:
        """Return every text, ``None`` where there is no value."""
        first = int(self.offsets[0])
        window = self.window()
        ends = (self.offsets - first).tolist()
        whole: list[str | None] = window.decode("utf-8", "replace").split("\n")  # type: ignore[assignment]
        found = whole[:-1]
        if len(found) != len(self):  # line feeds stand within texts
            found = [window[start : end - 1].decode("utf-8", "replace") for start, end in itertools.pairwise(ends)]
        if self.missing is not None:
            for row in np.flatnonzero(self.missing).tolist():
                found[row] = None
        return found


TextVector = CodedVector | PlainVector
Vector = NumericVector | CodedVector | PlainVector


def join_texts(texts: Sequence[bytes]) -> tuple[Array, Array]:
    """Return (offsets, data) of a plain vector for the given texts."""
    sizes = np.fromiter((len(text) + 1 for text in texts), dtype=np.int64, count=len(texts))
    offsets = np.zeros(len(texts) + 1, dtype=np.int64)
    np.cumsum(sizes, out=offsets[1:])
    joined = b"\n".join(texts) + (b"\n" if len(texts) else b"")
    return offsets, np.frombuffer(joined, dtype=np.uint8)


def gather_plain(vector: PlainVector, rows: Array) -> PlainVector:
    """Take rows of a plain vector, copying only their bytes. O(bytes taken)."""
    starts = np.asarray(vector.offsets[rows], dtype=np.int64)
    sizes = np.asarray(vector.offsets[rows + 1], dtype=np.int64) - starts
    offsets = np.zeros(len(rows) + 1, dtype=np.int64)
    np.cumsum(sizes, out=offsets[1:])
    data = np.empty(int(offsets[-1]), dtype=np.uint8)
    copy_texts(vector.data, starts, sizes, data, offsets[:-1])
    missing = vector.missing[rows] if vector.missing is not None else None
    return PlainVector(offsets, data, missing)


def part_of(vector: Vector, first: int, end: int) -> Vector:
    """Return rows ``first`` to ``end`` (excluded) of a vector without copying."""
    rows = slice(first, end)
    if isinstance(vector, CodedVector):
        return CodedVector(vector.codes[rows], vector.dictionary, vector.complete)
    missing = None if vector.missing is None else vector.missing[rows]
    if missing is not None and not missing.any():
        missing = None
    if isinstance(vector, PlainVector):
        return PlainVector(vector.offsets[first : end + 1], vector.data, missing)
    return NumericVector(vector.kind, vector.values[rows], missing, vector.complete, vector.zone)


def taken_from(vector: Vector, rows: Array) -> Vector:
    """Return some rows (any integer dtype) of a vector, in that order, each perhaps several times."""
    if isinstance(vector, CodedVector):
        return CodedVector(vector.codes[rows], vector.dictionary, vector.complete)
    gone = vector.missing
    gone = None if gone is None else gone[rows]
    if isinstance(vector, PlainVector):
        found = gather_plain(vector, np.asarray(rows, np.int64))
        return PlainVector(found.offsets, found.data, gone)
    return NumericVector(vector.kind, vector.values[rows], gone, vector.complete, vector.zone)


def vector_bytes(vector: Vector) -> int:
    """Return the memory a vector takes; a dictionary is its column's, and not counted."""
    if isinstance(vector, CodedVector):
        return vector.codes.nbytes
    missing = 0 if vector.missing is None else vector.missing.nbytes
    if isinstance(vector, PlainVector):
        return vector.offsets.nbytes + vector.data.nbytes + missing
    return vector.values.nbytes + missing

"""Writing the columns of a store while a source is read, chunk by chunk and in the source's order."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from yardcut.core.sources.kinds.set_aside import SetAside
from yardcut.core.sources.store.missing_bits import write_missing_bits
from yardcut.core.sources.store.store_parts import StoreParts
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array, ArrayWriter
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.table_so_far import PartsSoFar
from yardcut.core.table.vectors import PlainVector, gather_plain, join_texts
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

MOST_WORDS = 1 << 16
_MOST_WORD_BYTES = 1 << 25
_CHUNK_ROWS = 1 << 18
_FEW_ROWS = 1 << 11

PlainParts = tuple[Array, Array, Array | None]
"""(offsets, data, valid): int64, one longer than the rows; uint8; booleans or ``None``."""


class _Validity:
    """One byte a row, kept only from the first missing value on, until the column is finished."""

    def __init__(self, parts: StoreParts, number: int, part: str) -> None:
        self._writer = parts.writer(number, part, "|u1")
        self._parts, self._number, self._part = parts, number, part
        self.rows = 0
        self.missing = 0

    @property
    def used(self) -> bool:
        return self._writer.count > 0

    def append(self, valid: Array | None, rows: int) -> None:
        missing = 0 if valid is None else rows - int(np.count_nonzero(valid))
        self.missing += missing
        if not missing:
            valid = None
        if valid is not None and not self.used:
            self._writer.fill(1, self.rows)
        if valid is not None:
            self._writer.append(valid)
        elif self.used:
            self._writer.fill(1, rows)
        self.rows += rows

    def finish(self) -> int:
        """Turn the bytes into the column's bits; return how many values are missing."""
        if self.used:
            bits = self._parts.writer(self._number, "missing", "|u1")
            write_missing_bits(bits, self.values(), lambda some: some == 0)
            self._parts.drop(self._number, [self._part])
        return self.missing

    def values(self) -> Array:
        """Return the bytes so far, one a row."""
        return self._writer.items()

    def gone(self) -> Callable[[], Array] | None:
        """Return what gives the rows without a value, as booleans; ``None``: every row so far has one."""
        if not self.used:
            return None
        there = self.values()
        return lambda: there == 0


class NumericBuilder:
    """Writes a column of any kind but text. Integers and days take the narrowest width that holds them."""

    def __init__(self, parts: StoreParts, number: int, kind: Kind) -> None:
        self.kind = kind
        self._parts, self._number = parts, number
        narrow = kind not in (Kind.NUMBER, Kind.BOOLEAN)
        self._values = parts.writer(number, "values", STORAGE_DTYPE[kind], narrow=narrow)
        # not "valid", which may still be that of the texts these values are made of
        self._validity = _Validity(parts, number, "there")
        self._not_numbers = 0

    @property
    def rows(self) -> int:
        """Rows written so far."""
        return self._values.count

    def append(self, values: Array, valid: Array | None) -> None:
        """Write values; where ``valid`` is False the value must be 0 (NaN for numbers)."""
        self._values.append(values)
        if self.kind is Kind.NUMBER:
            self._not_numbers += int(np.count_nonzero(np.isnan(values)))
        else:
            self._validity.append(valid, len(values))

    def append_missing(self, rows: int) -> None:
        """Write rows without a value."""
        if self.kind is Kind.NUMBER:
            self.append(np.full(rows, np.nan), None)
        else:
            self.append(np.zeros(rows, dtype=np.int8), np.zeros(rows, dtype=np.bool_))

    def so_far(self, name: str, set_aside: SetAside, zone: str) -> PartsSoFar:
        """Return what is there of the column by now."""
        values, gone = self._values.items(), self._validity.gone()
        missing = self._not_numbers or self._validity.missing
        bits = lambda: bit.pack(np.isnan(values)) if gone is None else bit.pack(gone())  # noqa: E731
        info = ColumnInfo(
            name, self.kind, "values", self._values.dtype, missing,
            set_aside=set_aside.count, set_aside_texts=set_aside.counted(), zone=zone,
        )  # fmt: skip
        return PartsSoFar(info, {"values": lambda: values, "missing": bits})

    def finish(self, name: str, set_aside: SetAside) -> ColumnInfo:
        """Return what the manifest says of the column."""
        missing = self._not_numbers or self._validity.finish()
        if self._not_numbers:
            write_missing_bits(self._parts.writer(self._number, "missing", "|u1"), self._values.items(), np.isnan)
        return ColumnInfo(
            name, self.kind, "values", self._values.dtype, missing,
            set_aside=set_aside.count, set_aside_texts=set_aside.counted(),
        )  # fmt: skip


class TextBuilder:
    """Writes a text column: codes into a dictionary while few texts recur, else offsets and bytes."""

    kind = Kind.TEXT

    def __init__(self, parts: StoreParts, number: int) -> None:
        self.parts, self.number = parts, number
        self._uncoded = 0
        self._codes: ArrayWriter | None = parts.writer(number, "codes", "<i1", narrow=True)
        self._words: dict[str, int] = {}
        self._word_bytes = 0
        self._data = parts.writer(number, "data", "|u1")
        self._offsets = parts.writer(number, "offsets", "<i8")
        self._validity = _Validity(parts, number, "valid")

    @property
    def coded(self) -> bool:
        """True while the texts are kept as codes into a dictionary."""
        return self._codes is not None

    @property
    def rows(self) -> int:
        """Rows written so far."""
        return self._codes.count if self._codes is not None else self._validity.rows

    @property
    def present(self) -> int:
        """Rows so far that have a text."""
        return self.rows - (self._uncoded if self._codes is not None else self._validity.missing)

    @property
    def words(self) -> dict[str, int]:
        """The distinct texts so far and their codes, while coded."""
        return self._words

    def append_missing(self, rows: int) -> None:
        """Write rows without a value."""
        if self._codes is not None:
            self._codes.fill(-1, rows)
            self._uncoded += rows
        else:
            self.append_plain(np.arange(rows + 1, dtype=np.int64), np.full(rows, 10, dtype=np.uint8),
                               np.zeros(rows, dtype=np.bool_))  # fmt: skip

    def append(self, chunk: Any) -> None:
        """Write a pyarrow array of strings, or of dictionary-encoded strings."""
        import pyarrow as pa

        if self._codes is not None and len(chunk) <= _FEW_ROWS:
            self._append_few(chunk.to_pylist())
            return
        if pa.types.is_dictionary(chunk.type) and self._codes is None:
            chunk = chunk.dictionary_decode()
        elif self._codes is not None and not pa.types.is_dictionary(chunk.type):
            chunk = chunk.dictionary_encode()
        if self._codes is None:
            self.append_plain(*plain_parts(chunk))
            return
        words = chunk.dictionary.to_pylist()
        lookup = np.empty(len(words) + 1, dtype=np.int32)
        lookup[-1] = -1
        for index, word in enumerate(words):
            lookup[index] = self._code(word)
        values, valid = numeric_parts(chunk.indices)
        if valid is not None:
            values = np.where(valid, values, len(words))
            self._uncoded += len(valid) - int(np.count_nonzero(valid))
        self._codes.append(lookup[values])
        crowded = len(words) > 1000 and len(words) * 2 > len(chunk)
        if crowded or len(self._words) > MOST_WORDS or self._word_bytes > _MOST_WORD_BYTES:
            self._become_plain()

    def _append_few(self, texts: list[str | None]) -> None:
        """Write a handful of texts: of thousands of columns with a few rows, each costs what its cells cost."""
        assert self._codes is not None
        codes = [-1 if text is None else self._code(text) for text in texts]
        self._uncoded += codes.count(-1)
        self._codes.append(np.array(codes, dtype=np.int32))
        if len(self._words) > MOST_WORDS or self._word_bytes > _MOST_WORD_BYTES:
            self._become_plain()

    def _code(self, word: str) -> int:
        code = self._words.get(word)
        if code is None:
            code = self._words[word] = len(self._words)
            self._word_bytes += len(word)
        return code

    def _become_plain(self) -> None:
        codes_writer = self._codes
        assert codes_writer is not None
        self._codes = None
        offsets, data = join_texts([*(word.encode() for word in self._words), b""])
        dictionary = PlainVector(offsets, data)
        codes = codes_writer.items()
        for start in range(0, len(codes), _CHUNK_ROWS):
            some = codes[start : start + _CHUNK_ROWS].astype(np.int64)
            valid = some >= 0
            some[~valid] = len(self._words)
            taken = gather_plain(dictionary, some)
            self.append_plain(taken.offsets, taken.data, None if valid.all() else valid)
        self._words = {}
        self.parts.drop(self.number, ["codes"])

    def append_plain(self, offsets: Array, data: Array, valid: Array | None) -> None:
        """Write texts given as :func:`plain_parts` gives them, once the column is not coded any more."""
        if not self._offsets.count:
            self._offsets.append(np.zeros(1, dtype=np.int64))
        self._offsets.append(offsets[1:] + self._data.count)
        self._data.append(data)
        self._validity.append(valid, len(offsets) - 1)

    def so_far(self, name: str) -> PartsSoFar:
        """Return what is there of the column by now."""
        if self._codes is None:
            offsets, data, gone = self._offsets.items(), self._data.items(), self._validity.gone()
            info = ColumnInfo(name, Kind.TEXT, "plain", "|u1", self._validity.missing, len(data))
            missing = lambda: bit.pack(np.zeros(0, np.bool_) if gone is None else gone())  # noqa: E731
            return PartsSoFar(info, {"offsets": lambda: offsets, "data": lambda: data, "missing": missing})
        codes, words = self._codes.items(), list(self._words)
        info = ColumnInfo(name, Kind.TEXT, "codes", self._codes.dtype, self._uncoded, words=len(words))
        return PartsSoFar(info, {"codes": lambda: codes, "missing": lambda: bit.pack(codes < 0)}, words)

    def finish(self, name: str, set_aside: SetAside) -> ColumnInfo:
        """Write the dictionary and return what the manifest says of the column."""
        if self._codes is None:
            missing = self._validity.finish()
            return ColumnInfo(name, Kind.TEXT, "plain", "|u1", missing, self._data.count)
        if self._uncoded:
            write_missing_bits(self.parts.writer(self.number, "missing", "|u1"), self.codes(), lambda some: some < 0)
        encoded = [word.encode() for word in self._words]
        words = b"".join(encoded)
        self.parts.put(self.number, "words", words)
        self.parts.put(self.number, "sizes", np.asarray([len(word) for word in encoded], dtype="<i8").tobytes())
        return ColumnInfo(name, Kind.TEXT, "codes", self._codes.dtype, self._uncoded, len(words), len(encoded))

    def read_back(self, chunk_rows: int) -> Iterator[tuple[int, list[str | None]]]:
        """Yield all texts written so far in chunks, each with the row it begins at."""
        if self._codes is not None:
            words: list[str | None] = [*self._words, None]
            codes = self.codes()
            for start in range(0, len(codes), chunk_rows):
                yield start, [words[code] for code in codes[start : start + chunk_rows].tolist()]
            return
        rows = self._validity.rows
        offsets, data = self._offsets.items(), self._data.items()
        valid = self._validity.values() if self._validity.used else None
        for start in range(0, rows, chunk_rows):
            end = min(rows, start + chunk_rows)
            gone = None if valid is None else valid[start:end] == 0
            yield start, PlainVector(offsets[start : end + 1], data, gone).texts()

    def drop(self) -> None:
        """Remove what was written, when the column takes another form."""
        self.parts.drop(self.number, ("codes", "data", "offsets", "valid"))

    def codes(self) -> Array:
        """Map the codes written so far."""
        assert self._codes is not None
        return self._codes.items()


def numeric_parts(chunk: Any) -> tuple[Array, Array | None]:
    """Return (values, valid) of a pyarrow array of fixed-width values; empty slots hold 0, NaN for floats.

    Arrow leaves arbitrary data in empty slots, so they are always overwritten.
    """
    import pyarrow as pa

    validity, buffer = chunk.buffers()
    start, end = chunk.offset, chunk.offset + len(chunk)
    if pa.types.is_boolean(chunk.type):
        values = unpack_bits(buffer, start, end).view(np.uint8)
    else:
        types = pa.types
        letter = "f" if types.is_floating(chunk.type) else "u" if types.is_unsigned_integer(chunk.type) else "i"
        dtype = np.dtype(f"<{letter}{chunk.type.bit_width // 8}")
        values = np.frombuffer(buffer, dtype=dtype, count=end)[start:] if buffer else np.empty(0, dtype)
    if not chunk.null_count:
        return values, None
    valid = unpack_bits(validity, start, end)
    filled = values.copy()
    filled[~valid] = np.nan if filled.dtype.kind == "f" else 0
    return filled, valid


def unpack_bits(buffer: Any, start: int, end: int) -> Array:
    """Return bits ``start`` to ``end`` of an Arrow bitmap as booleans."""
    packed = np.frombuffer(buffer, dtype=np.uint8, count=(end + 7) // 8)
    return np.unpackbits(packed, count=end, bitorder="little")[start:].view(np.bool_)


def plain_parts(chunk: Any) -> PlainParts:
    """Return (offsets, data, valid) of a pyarrow array of strings, with a line feed behind each text."""
    import pyarrow as pa

    rows = len(chunk)
    if not rows:
        return np.zeros(1, dtype=np.int64), np.empty(0, dtype=np.uint8), None
    validity, offset_buffer, data_buffer = chunk.buffers()
    width = np.int64 if pa.types.is_large_string(chunk.type) else np.int32
    ends = np.frombuffer(offset_buffer, dtype=width, count=chunk.offset + rows + 1)[chunk.offset :].astype(np.int64)
    valid = unpack_bits(validity, chunk.offset, chunk.offset + rows) if chunk.null_count else None
    source = np.frombuffer(data_buffer, dtype=np.uint8)[ends[0] : ends[-1]] if data_buffer else np.empty(0, np.uint8)
    size, uneven = divmod(int(ends[-1] - ends[0]), rows)
    if not uneven and (ends == ends[0] + np.arange(rows + 1) * size).all():
        even = np.full((rows, size + 1), 10, dtype=np.uint8)
        even[:, :size] = source.reshape(rows, size)
        return np.arange(rows + 1) * (size + 1), even.reshape(-1), valid
    offsets = ends - ends[0] + np.arange(rows + 1)
    data = np.empty(int(offsets[-1]), dtype=np.uint8)
    is_text = np.ones(len(data), dtype=np.bool_)
    is_text[offsets[1:] - 1] = False
    data[is_text] = source
    data[offsets[1:] - 1] = 10
    return offsets, data, valid

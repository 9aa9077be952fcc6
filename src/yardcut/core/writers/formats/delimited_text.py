"""Blocks of delimited text put together by pyarrow's writer: several times as fast as cell by cell.

That writer quotes all texts or none. Texts that need quotes are given to it quoted, with stand-ins of one byte each for
what it takes for structure, which are put right in its output.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, PlainVector, Vector
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.texts.number_texts import fits_writer

_STAND_INS = b"\x01\x02\x03\x04\x05"
_STRUCTURE = '"\r\n'
"""What that writer takes for structure besides the delimiter, whatever the quote is here."""
_LINE_FEED = 10


class BlockWriter:
    """Writes blocks of one slice; ``cell`` writes one text as it stands in the file."""

    def __init__(self, delimiter: str, quote: str, cell: Callable[[str, Kind], str]) -> None:
        from pyarrow import csv

        marks = "".join(dict.fromkeys(delimiter + quote + _STRUCTURE))
        self._marks = marks.encode()
        self._cell = cell
        self._to_stand_ins = str.maketrans(marks, _STAND_INS[: len(marks)].decode())
        self._back = bytes.maketrans(_STAND_INS[: len(marks)], self._marks)
        self._options = csv.WriteOptions(include_header=False, delimiter=delimiter, quoting_style="none")
        self._words: dict[int, tuple[object, Any]] = {}

    def block(self, columns: Sequence[Vector]) -> bytes | None:
        """Return a block's lines; ``None`` where a text holds a stand-in, and it is to be written cell by cell."""
        import pyarrow as pa
        from pyarrow import csv

        arrays = []
        for place, vector in enumerate(columns):
            array = self._array(place, vector)
            if array is None:
                return None
            arrays.append(array)
        target = io.BytesIO()
        table = pa.table(arrays, [str(place) for place in range(len(arrays))])
        csv.write_csv(table, target, self._options)
        return target.getvalue().translate(self._back)

    def _array(self, place: int, vector: Vector) -> Any:
        import pyarrow as pa

        if isinstance(vector, CodedVector):
            words = self._dictionary(place, vector)
            if words is None:
                return None
            codes = pa.array(vector.codes.astype(np.int32), mask=vector.missing_mask())
            return pa.DictionaryArray.from_arrays(codes, words).dictionary_decode()
        if isinstance(vector, PlainVector):
            return self._plain(vector)
        missing = vector.missing_mask()
        match vector.kind:
            case Kind.INTEGER:
                return pa.array(vector.values.astype(np.int64), mask=missing)
            case Kind.NUMBER if fits_writer(vector.values, missing):
                return pa.array(vector.values.astype(np.float64), mask=missing)
            case Kind.BOOLEAN:
                return pa.array(vector.values != 0, pa.bool_(), mask=missing)
            case Kind.DATE if _within_calendar(vector.values):
                return pa.array(vector.values.astype(np.int32), pa.date32(), mask=missing)
        return self._texts([text or "" for text in vector.texts()], vector.kind)

    def _dictionary(self, place: int, vector: CodedVector) -> Any:
        import pyarrow as pa

        known = self._words.get(place)
        if known is not None and known[0] is vector.dictionary:
            return known[1]
        words = self._texts(vector.dictionary.texts, Kind.TEXT)
        self._words[place] = (vector.dictionary, words)
        return words if words is not None else None if vector.dictionary.texts else pa.array([], pa.string())

    def _plain(self, vector: PlainVector) -> Any:
        """Return texts without copying each, where none needs quotes."""
        import pyarrow as pa

        first, end = int(vector.offsets[0]), int(vector.offsets[-1])
        data, rows = vector.data[first:end], len(vector)
        whole = data.tobytes()
        plain = whole.count(b"\n") == rows and not any(whole.find(mark) >= 0 for mark in _single(self._marks))
        if not plain or any(whole.find(mark) >= 0 for mark in _single(_STAND_INS)):
            return self._texts([text or "" for text in vector.texts()], vector.kind)
        offsets = vector.offsets - first - np.arange(rows + 1)
        if int(offsets[-1]) > np.iinfo(np.int32).max:
            return None
        kept = data[data != _LINE_FEED]
        buffers = [None, pa.py_buffer(offsets.astype(np.int32)), pa.py_buffer(kept)]
        return pa.StringArray.from_buffers(rows, buffers[1], buffers[2])

    def _texts(self, texts: Sequence[str], kind: Kind) -> Any:
        import pyarrow as pa

        whole = "".join(texts)
        if any(chr(code) in whole for code in _STAND_INS):
            return None
        marks = self._marks.decode()
        if any(mark in whole for mark in marks):
            table = self._to_stand_ins
            texts = [
                self._cell(text, kind).translate(table) if any(mark in text for mark in marks) else text
                for text in texts
            ]
        return pa.array(texts, pa.string())


def _single(marks: bytes) -> list[bytes]:
    return [bytes([mark]) for mark in marks if mark != _LINE_FEED]


def _within_calendar(days: Array) -> bool:
    """Tell whether days lie in years of four digits, which are written alike."""
    return not len(days) or bool(days.min() >= -719_162 and days.max() <= 2_932_896)

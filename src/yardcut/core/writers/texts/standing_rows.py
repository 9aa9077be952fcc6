"""The rows of a slice put together of cells as they stand in the source and of computed ones, many rows at once."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.in_turn import in_turn
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED, offsets_of
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts
from yardcut.core.table.vectors import PlainVector, gather_plain
from yardcut.core.table.window import Scatter
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.texts.cell_texts import CellWriter
from yardcut.core.writers.texts.rows_again import RowsAgain
from yardcut.core.writers.texts.stretches import Part, Stretch

_ROWS_AT_ONCE = 1 << 14
_BYTES_AT_ONCE = 1 << 23


@dataclass(frozen=True, slots=True)
class _Cells:
    """Texts of some rows: that of row ``i`` is ``data[starts[i] : starts[i] + sizes[i]]``, with the mark behind it."""

    data: Array
    starts: Array
    sizes: Array


class StandingRows:
    """Rows of a slice, of texts of stretches of its source that were read again, and of computed columns."""

    def __init__(
        self, parts: Sequence[Part], texts: Mapping[Stretch, PlainVector], rows: RowsAgain, plan: Plan
    ) -> None:
        self._parts, self._texts, self._rows = parts, texts, rows
        self._writer = CellWriter(plan)
        computed = [part for part in parts if isinstance(part, tuple)]
        self._blocks = {part: self._writer.blocks() for part in computed}  # dictionaries are kept by place in a part
        self._computed = [column for part in computed for column in part]
        width = sum(part.end - part.first if isinstance(part, Stretch) else len(part) for part in parts)
        self._nothing = self._writer.delimiter * (width - 1)

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes]:
        """Yield the rows of the slice or of a part of it, a line feed behind each; the next are made on threads."""
        row_bytes = sum(int(each.offsets[-1]) // max(1, len(each)) for each in self._texts.values())
        at_once = min(rows_at_once(len(piece.columns), _ROWS_AT_ONCE), max(1, _BYTES_AT_ONCE // max(1, row_bytes)))
        windows = piece.windows(self._computed, token, progress, at_once)
        with ThreadPoolExecutor(block_threads(), thread_name_prefix="rows") as pool:
            yield from in_turn((partial(self._lines, window) for window in windows), pool, token, 2 * block_threads())

    def _lines(self, window: Scatter) -> bytes:
        if not len(window):
            return b""
        at = self._rows.places(window.row_ids)
        if len(self._parts) == 1 and isinstance(self._parts[0], Stretch):
            lines: Array | None = gather_plain(self._texts[self._parts[0]], at).data
        else:
            lines = self._joined(window, at)
        found = b"" if lines is None else lines.tobytes()
        nothing = self._nothing.encode() + b"\n"
        if lines is None or found.startswith(nothing) or b"\n" + nothing in found:
            return self._one_by_one(window, at)  # a line of separators alone would be no row at all
        return found

    def _joined(self, window: Scatter, at: Array) -> Array | None:
        """Put the lines together; ``None`` where a computed text is to be written by itself."""
        cells = []
        for part in self._parts:
            found = _of_stretch(self._texts[part], at) if isinstance(part, Stretch) else self._worked_out(part, window)
            if found is None:
                return None
            cells.append(found)
        sizes = sum((each.sizes for each in cells), np.zeros(len(at), dtype=np.int64))
        places = np.cumsum(sizes) - sizes
        lines = np.empty(int(sizes.sum()), dtype=np.uint8)
        for each in cells:
            copy_texts(each.data, each.starts, each.sizes, lines, places)
            places = places + each.sizes
            lines[places - 1] = ord(self._writer.delimiter)
        lines[places - 1] = LINE_FEED
        return lines

    def _worked_out(self, columns: tuple[ShownColumn, ...], window: Scatter) -> _Cells | None:
        blocks = self._blocks[columns]
        lines = blocks.block([evaluate(column.value, window) for column in columns]) if blocks is not None else None
        data = np.frombuffer(lines or b"", dtype=np.uint8)
        ends = offsets_of(data, LINE_FEED) + 1
        if len(ends) != len(window):  # line feeds stand within quotes
            return None
        sizes = np.diff(ends, prepend=0)
        return _Cells(data, ends - sizes, sizes)

    def _one_by_one(self, window: Scatter, at: Array) -> bytes:
        columns: list[list[str]] = []
        for part in self._parts:
            if isinstance(part, Stretch):
                columns.append([text or "" for text in gather_plain(self._texts[part], at).texts()])
            else:
                columns += [self._writer.cells(evaluate(column.value, window)) for column in part]
        lines = (self._writer.delimiter.join(row) for row in zip(*columns, strict=True))
        return "".join((self._writer.empty + line if line == self._nothing else line) + "\n" for line in lines).encode()


def _of_stretch(texts: PlainVector, at: Array) -> _Cells:
    starts = np.asarray(texts.offsets[at], dtype=np.int64)
    return _Cells(texts.data, starts, np.asarray(texts.offsets[at + 1], dtype=np.int64) - starts)

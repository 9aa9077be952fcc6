"""Answers of pieces straight from a source's own files: group by group, groups that cannot matter left unread."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from yardcut.core.expressions.column_ranges import answer_of_range
from yardcut.core.expressions.evaluating import answer_piece, combine
from yardcut.core.expressions.piece_rounds import PartAnswers
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.language.meaning.bound import BoundCondition, Piece
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.row_parts import Part
from yardcut.core.settings.threads import scan_threads
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import zeros
from yardcut.core.table.table import Table
from yardcut.core.table.unread import GroupScan
from yardcut.core.table.window import Decoded


class DirectAnswers:
    """Gathers the answers of some pieces for all rows of a table."""

    def __init__(self, table: Table, scan: GroupScan, pieces: Sequence[Piece], watched: BoundCondition | None) -> None:
        self._table, self._scan, self._pieces, self._watched = table, scan, pieces, watched
        self._unread = sorted(number for number in columns_read(tuple(pieces)) if not table.columns[number].is_loaded)
        size = (table.rows + 7) // 8
        self._true = {piece: zeros(size, np.uint8) for piece in pieces}
        self._unknown: dict[Piece, Array] = {}
        self._lock = threading.Lock()

    def run(self, token: CancelToken, progress: Progress | None) -> None:
        """Go over all groups. Raises ``SourceError``, ``StoppedError``, ``NotAsDeclaredError``."""
        if progress is not None:
            progress.begin("looking at rows", self._table.rows)
        with ThreadPoolExecutor(scan_threads(), thread_name_prefix="scan") as pool:
            tasks = [
                pool.submit(self._group, group, first, end, token, progress)
                for group, (first, end) in enumerate(self._scan.groups())
            ]
            try:
                for task in tasks:
                    task.result()
                self._scan.end()
            finally:
                for task in tasks:
                    task.cancel()

    def _group(self, group: int, first: int, end: int, token: CancelToken, progress: Progress | None) -> None:
        token.check()
        ranges = self._scan.ranges(self._unread, group)
        known = {piece: answer_of_range(piece, ranges) for piece in self._pieces}
        sure = {piece: answer for piece, answer in known.items() if answer is not None}
        rest = [piece for piece in self._pieces if piece not in sure]
        if not rest:
            self._put(first, end, {piece: _all(answer, end - first) for piece, answer in sure.items()}, progress)
            return
        wanted = sorted(columns_read(tuple(rest)) & set(self._unread))
        for start, stop, vectors in self._scan.vectors(wanted, group, token):
            token.check()
            window = Decoded(self._table, start, stop, vectors)
            answers = {piece: answer_piece(piece, window) for piece in rest}
            answers |= {piece: _all(answer, stop - start) for piece, answer in sure.items()}
            self._put(start, stop, answers, progress)

    def _put(self, first: int, end: int, answers: dict[Piece, Answers], progress: Progress | None) -> None:
        with self._lock:
            for piece, found in answers.items():
                _merge(self._true[piece], first, end, found.true)
                if found.unknown is not None:
                    if piece not in self._unknown:
                        self._unknown[piece] = zeros(len(self._true[piece]), np.uint8)
                    _merge(self._unknown[piece], first, end, found.unknown)
        if progress is not None:
            progress.advance(end - first)
            if self._watched is not None:
                progress.found(end - first, bit.count(combine(self._watched, answers).true))

    def parts(self, parts: Sequence[Part]) -> PartAnswers:
        """Return the answers cut as the parts of a round are."""
        return [
            {
                piece: Answers(
                    part.rows,
                    bit.window(self._true[piece], part.first_row, part.end_row),
                    bit.window(self._unknown[piece], part.first_row, part.end_row) if piece in self._unknown else None,
                )
                for piece in self._pieces
            }
            for part in parts
        ]


def _all(answer: bool, rows: int) -> Answers:
    return Answers(rows, bit.ones(rows) if answer else np.zeros((rows + 7) // 8, dtype=np.uint8))


def _merge(bits: Array, first: int, end: int, some: Array) -> None:
    """Put the bits of some rows in their place, which need not begin a byte."""
    shift = first % 8
    if shift:
        some = np.packbits(
            np.concatenate((np.zeros(shift, dtype=np.bool_), bit.unpack(some, 0, end - first))), bitorder="little"
        )
    bits[first // 8 : first // 8 + len(some)] |= some

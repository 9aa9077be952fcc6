"""Running a cut line by line. Each line has a fingerprint of itself and all above it; only what changed runs again."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.cutlist.model import Cut
from yardcut.core.language import bound as b
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.draws import draw_rows
from yardcut.core.ranking.planning import plan_keys
from yardcut.core.ranking.sorting import sort_rows
from yardcut.core.run.binding import BoundLine, bind_cut
from yardcut.core.run.pieces import PieceCache
from yardcut.core.run.results import LineResult
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet

_LIMIT_BYTES = 160 << 20


class Executor:
    """Runs cuts of one source and keeps the results of their lines under a limit of memory."""

    def __init__(self, runner: Runner, limit_bytes: int = _LIMIT_BYTES) -> None:
        self.runner = runner
        self.pieces = PieceCache(runner)
        self._limit_bytes = limit_bytes
        self._results: OrderedDict[str, LineResult] = OrderedDict()
        self._lock = threading.Lock()

    def run(
        self,
        cut: Cut,
        token: CancelToken | None = None,
        progress: Progress | None = None,
        *,
        default_seed: int | None = None,
    ) -> Iterator[LineResult]:
        """Yield the result of each line as soon as it is there.

        A line that is wrong ends the run: what stands below it has no result. Raises ``StoppedError``.
        """
        token = token or CancelToken()
        table = self.runner.table
        rows = RowSet(table.rows)
        mark = hashlib.blake2b(table.fingerprint.encode())
        for line in bind_cut(cut, table, default_seed=default_seed):
            token.check()
            if line.error is not None:
                return
            result = self._line(line, rows, mark, token, progress)
            rows = result.rows
            yield result

    def _line(
        self,
        line: BoundLine,
        rows: RowSet,
        mark: hashlib.blake2b,
        token: CancelToken,
        progress: Progress | None,
    ) -> LineResult:
        if line.bound is None:
            return LineResult(line, rows, rows)
        body = line.bound.body
        if isinstance(body, b.BoundColumns | b.BoundSave):
            return LineResult(line, rows, rows)
        mark.update(repr(body).encode())
        key = mark.hexdigest()
        with self._lock:
            known = self._results.get(key)
            if known is not None:
                self._results.move_to_end(key)
        if known is not None:
            return replace(known, line=line)
        result = self._work(line, body, rows, token, progress)
        with self._lock:
            self._results[key] = result
            self._trim()
        return result

    def _work(
        self, line: BoundLine, body: b.BoundBody, rows: RowSet, token: CancelToken, progress: Progress | None
    ) -> LineResult:
        match body:
            case b.BoundFilter(condition, drops):
                if condition is None:
                    return LineResult(line, rows, rows)
                answers = self.pieces.combined(condition, token, progress)
                if drops:
                    return LineResult(line, rows, rows.without(answers.true))
                left = rows.only(answers.true)
                unknown = answers.unknown
                if unknown is None:
                    return LineResult(line, rows, left)
                if rows.bits is not None:
                    unknown = rows.bits & unknown
                return LineResult(line, rows, left, bit.count(unknown), unknown=unknown)
            case b.BoundOrder(keys, seed):
                if not keys and seed is None:
                    return LineResult(line, rows, RowSet(rows.table_rows, rows.bits))
                plans = plan_keys(keys, self.runner, token, progress)
                return LineResult(line, rows, sort_rows(rows, plans, self.runner, token, progress, seed))
            case b.BoundDraw():
                drawn = draw_rows(body, rows, self.runner, token, progress)
                return LineResult(line, rows, drawn.rows, drawn.passed_over, drawn.notes)
        raise AssertionError(f"no work for {type(body).__name__}")

    def _trim(self) -> None:
        size = sum(_size_bytes(result.rows) for result in self._results.values())
        while size > self._limit_bytes and len(self._results) > 1:
            _, gone = self._results.popitem(last=False)
            size -= _size_bytes(gone.rows)


def _size_bytes(rows: RowSet) -> int:
    bits = 0 if rows.bits is None else rows.bits.nbytes
    order = 0 if rows.order is None else 2 * rows.order.nbytes
    return bits + order

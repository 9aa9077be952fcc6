"""What a wrong line of a cut likely means, told by the rows that reach it, where nobody sees it being written."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.frame import Frame, source_frame
from yardcut.core.language.helping.completing_lines import Frequent
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining.mends_offered import mended


def likely_meant(lines: Sequence[BoundLine], place: int, executor: Executor, token: CancelToken) -> ListError:
    """Return what is wrong with the line at a place, with the mend that the prompt would offer for it.

    The lines above it are run where a value must be looked for. Raises ``StoppedError``.
    """
    line = lines[place]
    error = line.error
    assert error is not None
    rows: list[Frame] = []

    def values(column: ShownColumn) -> Frequent:
        if not rows:
            above = [result.frame for result in executor.run_bound(lines[:place], token)]
            rows.append(above[-1] if above else source_frame(executor.runner.table))
        frame = rows[0]
        if not all(frame.table.columns[number].is_loaded for number in columns_of(column.value)):
            return Frequent()  # a word is not worth reading a column that still stands in its own file
        found = distinct_values(column.value, frame.rows, executor.runner.over(frame.table), token)
        if not found.is_whole:
            return Frequent()
        return Frequent(tuple(sorted(((str(text), count) for text, count in found.values), key=lambda each: -each[1])))

    text, applied = mended(line.line.text, line.scope, values)
    return error.with_mend(Mend(applied[0].says, text)) if applied else error

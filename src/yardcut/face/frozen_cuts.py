"""A cut for Python: a frozen value that runs when it is asked for something."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from yardcut.core.cutlist.file import list_text
from yardcut.core.cutlist.model import Cut as CutOfList
from yardcut.core.cutlist.model import CutList, Line
from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.frame import Frame, rows_at_once, source_frame
from yardcut.core.language.lines import statement_text, wants_seed, with_seed
from yardcut.core.language.seeds import chosen_seed
from yardcut.core.language.syntax.dial_lines import with_texts
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.likely_meant import likely_meant
from yardcut.core.session import Session, resolve_source
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.writers.formats.parquet import arrow_arrays, arrow_schema

if TYPE_CHECKING:
    import pyarrow as pa

_BATCH_ROWS = 1 << 16


@dataclass(frozen=True, eq=False)
class Cut:
    """Lines over a source. Each method returns another cut, or runs this one; nothing is kept but what was worked out.

    ``text`` is the list it is, as the app opens it.
    """

    _spec: SourceSpec
    _executor: Executor
    _list: CutList
    _index: int

    # lines

    def line(self, text: str) -> Cut:
        """Return the cut with one more line, as it stands in a list. A draw by chance without a seed is given one.

        Raises ``ListError`` with place, cause and mend where it is wrong.
        """
        line = Line(text)
        statement = line.statement()
        if wants_seed(statement):
            line = Line(statement_text(with_seed(statement, chosen_seed())))
        cuts = list(self._list.cuts)
        cuts[self._index] = replace(cuts[self._index], lines=(*cuts[self._index].lines, line))
        cut = replace(self, _list=replace(self._list, cuts=tuple(cuts)))
        cut._check()
        return cut

    def keep(self, condition: str) -> Cut:
        """Return the cut with the rows alone for which a condition is true."""
        return self.line(f"keep {condition}")

    def drop(self, condition: str) -> Cut:
        """Return the cut without the rows for which a condition is true."""
        return self.line(f"drop {condition}")

    def make(self, columns: str) -> Cut:
        """Return the cut with columns computed from others: ``worth = volume_m3 * price_per_m3``."""
        return self.line(f"make {columns}")

    def order(self, keys: str) -> Cut:
        """Return the cut in an order: ``price_per_m3 DESC, ticket``."""
        return self.line(f"order {keys}")

    def draw(self, how: str) -> Cut:
        """Return the cut of some of its rows: ``top 10 by price_per_m3 per species``, ``random 500 seed 7``."""
        return self.line(f"draw {how}")

    def columns(self, columns: str) -> Cut:
        """Return the cut with columns chosen, put in order and renamed: ``ticket, species AS wood``."""
        return self.line(f"columns {columns}")

    def tally(self, measures: str) -> Cut:
        """Return the cut put together by groups: ``SUM(volume_m3) AS volume per species``."""
        return self.line(f"tally {measures}")

    def bring(self, columns: str) -> Cut:
        """Return the cut with columns of a second table: ``name from "mills.csv" by mill_id = id``."""
        return self.line(f"bring {columns}")

    def with_dials(self, **values: object) -> Cut:
        """Return the cut with dials of its list turned: ``with_dials(best=20, woods=["oak", "ash"])``.

        Raises ``ListError`` for a dial that is not there, or a value that is not of its kind.
        """
        cut_list = self._list
        for name, value in values.items():
            texts = tuple(map(str, value)) if isinstance(value, list | tuple) else (str(value),)
            cut_list = cut_list.with_dial(with_texts(cut_list.dial(name), texts))
        cut = replace(self, _list=cut_list)
        cut._check()
        return cut

    @property
    def lines(self) -> tuple[str, ...]:
        """Its lines, as they stand in its list."""
        return tuple(line.text for line in self._cut.lines)

    @property
    def text(self) -> str:
        """The list it is: saved as a ``.cut`` file the app and ``yardcut run`` open it."""
        return list_text(self._list)

    def _check(self) -> None:
        """Raise ``ListError`` with place, cause and mend for the first line that is wrong."""
        lines = self._session.bound(self._cut)
        for place, line in enumerate(lines):
            if line.error is not None:
                raise likely_meant(lines, place, self._executor, CancelToken()).in_statement(line.line.text)

    # what it comes to

    def count(self) -> int:
        """Return how many rows it leaves."""
        return self._frame.rows.count

    def __len__(self) -> int:
        """Return how many rows it leaves."""
        return self.count()

    @property
    def names(self) -> tuple[str, ...]:
        """The names of the columns it leaves."""
        return tuple(column.name for column in self._frame.columns)

    def report(self) -> list[dict[str, Any]]:
        """Return of each line its number, text, rows in and out, and notes; nothing is written."""
        from yardcut.core.run.explaining.report import Report

        table = self._executor.runner.table
        report = Report("", table.fingerprint, self._cut.name, table.rows, [])
        for result in self._results:
            report.add(result)
        return [
            {
                "line": line.number, "text": line.text, "off": line.off, "rows_in": line.rows_in,
                "rows_out": line.rows_out, "taken_for_want_of_a_value": line.taken_unknown, "notes": list(line.notes),
            }
            for line in report.lines
        ]  # fmt: skip

    def offcut(self, line: int) -> pa.Table:
        """Return the rows that a line, by its number from 1, removed, with the columns that reached it.

        Raises ``ListError`` where the cut has no such line.
        """
        results = self._results
        if not 0 < line <= len(results):
            raise ListError(f"the cut has no line {line}", mend=Mend(f"it has {len(results)}"))
        return _arrow(results[line - 1].offcut)

    def to_arrow(self) -> pa.Table:
        """Return its rows as an Arrow table: kinds as types, missing values as nulls."""
        return _arrow(self._frame)

    def batches(self, rows: int = _BATCH_ROWS) -> Iterator[pa.RecordBatch]:
        """Yield its rows in Arrow batches of so many; only one is in memory at a time."""
        yield from _batches(self._frame, rows)

    def __arrow_c_stream__(self, requested_schema: object | None = None) -> object:
        """Hand its rows over, batch by batch (Arrow PyCapsule interface)."""
        import pyarrow as pa

        frame = self._frame
        reader = pa.RecordBatchReader.from_batches(arrow_schema(frame), _batches(frame, _BATCH_ROWS))
        return reader.__arrow_c_stream__(requested_schema)

    def save(self, path: str | os.PathLike[str], options: str = "", *, replace: bool = False) -> None:
        """Write its rows, in the format of the path's ending, with the options of a save line.

        ``cut.save("oak.csv", "delimiter ';' missing 'NA'")``. The file is written beside its place, moved there and
        read back; the source is never written over. Raises ``TargetError`` where it exists and may not be replaced.
        """
        from yardcut.core.language.syntax.save_words import parse_save_words
        from yardcut.core.language.verbs.save import SAVE
        from yardcut.core.unattended import run_cut
        from yardcut.core.values.formatting import quote_name
        from yardcut.core.writers.targets import RunOptions

        save = parse_save_words(f"{quote_name(str(path))} {options}".strip())
        bare = self._without_saves.line(f"save {SAVE.text(save)}")
        run_cut(
            bare._session, bare._index, RunOptions(replace=replace, base=self._list.base), CancelToken(), Progress()
        )

    def to_sql(self, dialect: str = "postgresql", table: str | None = None) -> str:
        """Return it as one SQL statement for a table of a database.

        Raises ``ListError`` for what cannot be said so that it surely means the same.
        """
        from yardcut.core.sql.statement import as_statement

        session = self._session
        cuts = [cut.name for cut in self._list.cuts]
        source = self._executor.runner.table
        return as_statement(session.bound(self._cut), source, table or self._spec.stem, dialect, cuts, self._index)

    def __repr__(self) -> str:
        """Say its lines."""
        return "\n".join([f"<yardcut cut of {self._spec.label}>", *(f"  {line}" for line in self.lines)])

    def _repr_html_(self) -> str:
        from yardcut.face.notebook import as_html

        return as_html(self._results, self._frame, self._spec.label, self._executor.runner.table.rows)

    # how it runs

    @property
    def _cut(self) -> CutOfList:
        return self._list.cuts[self._index]

    @property
    def _without_saves(self) -> Cut:
        """The cut without what it would write."""
        cuts = list(self._list.cuts)
        lines = tuple(line for line in self._cut.lines if line.verb != "save")
        cuts[self._index] = replace(self._cut, lines=lines)
        return replace(self, _list=replace(self._list, cuts=tuple(cuts)))

    @property
    def _session(self) -> Session:
        session = Session(resolve_source(self._list, self._list.base), self._list)
        if self._spec != session.spec:
            session.read_instead(self._spec)  # what else the list names stands where it stood
        session.table, session.executor = self._executor.runner.table, self._executor
        return session

    @property
    def _results(self) -> list[LineResult]:
        session = self._session
        return list(session.results(CancelToken(), cut=self._cut, seed=0))

    @property
    def _frame(self) -> Frame:
        results = self._results
        return results[-1].frame if results else source_frame(self._executor.runner.table)


def _batches(frame: Frame, rows: int) -> Iterator[pa.RecordBatch]:
    import pyarrow as pa

    schema = arrow_schema(frame)
    for _, vectors in frame.blocks(CancelToken(), Progress(), min(rows, rows_at_once(len(frame.columns), rows))):
        yield pa.record_batch(arrow_arrays(vectors), schema=schema)


def _arrow(frame: Frame) -> pa.Table:
    import pyarrow as pa

    return pa.Table.from_batches(_batches(frame, _BATCH_ROWS), schema=arrow_schema(frame))

"""The work bench: a session with the results of its lines, as the app needs them. No Textual here."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError, SourceError
from yardcut.core.expressions.frame import Frame, source_scope
from yardcut.core.language import bound as b
from yardcut.core.language.completing import Completion, complete, complete_source_line
from yardcut.core.language.scope import Scope
from yardcut.core.language.source_lines import is_sub_line, parse_sub_line
from yardcut.core.profile.fitting import values_unfit
from yardcut.core.profile.shape import shape, spread
from yardcut.core.profile.summary import Summary, summarise
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.binding import bind_line, mended
from yardcut.core.run.results import LineResult
from yardcut.core.run.tree_counts import Branch, branches
from yardcut.core.session import LIST_SUFFIX, Session
from yardcut.core.sources.preview import Preview
from yardcut.core.sources.spec import KindLine, SourceSpec, SubLine
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table
from yardcut.core.values.formatting import literal
from yardcut.core.values.kinds import Kind
from yardcut.tui.opening import Opening
from yardcut.tui.table_source import TableSource
from yardcut.tui.widgets.grid.model import GridColumn, Shapes

_FIRST_ROWS = 1 << 12
_FREQUENT = 400
_PREVIEW_SEED = 0


@dataclass(frozen=True, slots=True)
class Trial:
    """A line being written: what it would do, or what is wrong with it.

    ``result`` has the rows it would leave; ``mend`` the text with its mistakes put right.
    """

    text: str
    result: LineResult | None = None
    error: ListError | None = None
    mend: str | None = None
    source_line: SubLine | None = None
    preview: Preview | None = None
    hints: tuple[str, ...] = ()


class Bench:
    """Holds a session and the results of the cut worked on. Methods that take a token may take long."""

    def __init__(self, source: SourceSpec | Path) -> None:
        from_list = isinstance(source, Path) and source.suffix == LIST_SUFFIX
        self.session = Session.from_list(Path(str(source))) if from_list else Session(source)
        self.results: list[LineResult] = []
        self.trees: dict[int, list[Branch]] = {}
        self._frequent: dict[int, tuple[tuple[str, int], ...]] = {}

    @property
    def table(self) -> Table:
        """The source's table; only once it is open."""
        assert self.session.table is not None
        return self.session.table

    @property
    def is_open(self) -> bool:
        """True once the source has been read."""
        return self.session.table is not None

    def forget(self) -> None:
        """Forget what was worked out of a table that is no longer the one."""
        self.results = []
        self.trees = {}
        self._frequent = {}

    def warm_up(self) -> None:
        """Load what the first line written would otherwise wait for."""
        import rapidfuzz.process
        import re2  # noqa: F401

        from yardcut.core.language.grammars import grammar

        grammar()
        grammar("source", "sub_line")
        assert rapidfuzz.process

    # results

    def rows_at(self, selected: int) -> RowSet | None:
        """Return the rows as of a line (-1: the source); ``None`` while they are not known."""
        if selected < 0:
            return RowSet(self.table.rows)
        return self.results[selected].rows if selected < len(self.results) else None

    def scope_at(self, selected: int) -> Scope:
        """Return the columns as of a line."""
        if 0 <= selected < len(self.results):
            return self.results[selected].line.scope
        return self.results[-1].line.scope if self.results and selected >= 0 else source_scope(self.table)

    def run(self, token: CancelToken, progress: Progress, each: Callable[[LineResult], None]) -> list[LineResult]:
        """Work out the lines of the cut, handing on each result as it comes."""
        found = []
        for result in self.session.results(token, progress, seed=_PREVIEW_SEED):
            found.append(result)
            each(result)
        return found

    def tree(self, result: LineResult, token: CancelToken) -> list[Branch]:
        """Return the counts of a line's condition."""
        assert self.session.executor is not None
        return branches(result, self.session.executor.pieces, token)

    def wrong_line(self) -> tuple[int, ListError] | None:
        """Return the first line that is wrong, and what is wrong with it."""
        from yardcut.core.run.binding import bind_cut

        for index, line in enumerate(bind_cut(self.session.cut, self.table, default_seed=_PREVIEW_SEED)):
            if line.error is not None:
                return index, line.error
        return None

    # grids

    def grid(self, selected: int) -> TableSource | None:
        """Return the table as of a line."""
        rows = self.rows_at(selected)
        return None if rows is None else self._source(rows, selected)

    def offcut(self, selected: int) -> TableSource | None:
        """Return the rows a line removed, with reasons."""
        if not 0 <= selected < len(self.results):
            return None
        result = self.results[selected]
        shown = self.scope_at(selected - 1).shown
        return TableSource(result.offcut, self._columns(shown, selected - 1), offcut_of=result)

    def trial_grid(self, trial: Trial, *, marked: bool) -> TableSource | None:
        """Return the rows a line being written works on, marked by what it would take, or what it would leave."""
        if trial.result is None:
            return None
        result = trial.result
        if marked:
            frame = Frame(self.table, result.before.rows, result.shown)
            return TableSource(frame, self._columns(result.shown, None, result), marked_by=result)
        return TableSource(result.frame, self._columns(result.shown, None, result))

    def _source(self, rows: RowSet, selected: int) -> TableSource:
        shown = self.scope_at(selected).shown
        return TableSource(Frame(self.table, rows, shown), self._columns(shown, selected))

    def _columns(
        self, shown: Sequence[b.ShownColumn], selected: int | None, trial: LineResult | None = None
    ) -> list[GridColumn]:
        done = self.results if selected is None else self.results[: selected + 1]
        bodies = [result.line.bound.body for result in done if result.line.bound is not None]
        if trial is not None and trial.line.bound is not None:
            bodies.append(trial.line.bound.body)
        sorts: dict[b.BoundValue, tuple[int, bool]] = {}
        restricted: set[b.BoundValue] = set()
        for body in bodies:
            restricted |= set(body.restricts())
            keys = body.arranges()
            if keys is not None:
                sorts = {}
                for place, key in enumerate(keys, 1):
                    sorts.setdefault(key.value, (place, key.descending))
        found = []
        for column in shown:
            sort, descending = sorts.get(column.value, (0, False))
            found.append(
                GridColumn(column.name, column.kind.value, column.number, sort, descending,
                           column.value in restricted)
            )  # fmt: skip
        return found

    def shapes(
        self, selected: int, columns: Sequence[int], token: CancelToken, progress: Progress | None = None
    ) -> Shapes:
        """Work out the small distributions of some columns (by number in the table) as of a line."""
        rows = self.rows_at(selected)
        if rows is None:
            return {}
        source_ids, ids = spread(RowSet(self.table.rows)), spread(rows)
        found: Shapes = {}
        for column in columns:
            token.check()
            shown = next(each for each in self.scope_at(selected).shown if each.number == column + 1)
            self.table.load(b.columns_of(shown.value), token, progress)
            found[column + 1] = shape(self.table, shown.value, source_ids, ids)
        return found

    # columns

    def summary(
        self, column: int, selected: int, token: CancelToken, progress: Progress | None = None
    ) -> tuple[Summary, Summary | None]:
        """Return the summary of a column as of a line, and as of the line above it where that has other rows."""
        assert self.session.executor is not None
        runner = self.session.executor.runner
        rows = self.rows_at(selected) or RowSet(self.table.rows)
        before = self.rows_at(selected - 1) if selected >= 0 else None
        shown = next(each for each in self.scope_at(selected).known if each.number == column + 1)
        self.table.load(b.columns_of(shown.value), token, progress)
        now = summarise(shown, rows, runner, token)
        if before is None or before.count == rows.count:
            return now, None
        return now, summarise(shown, before, runner, token)

    def summary_alone(self, column: int, selected: int, token: CancelToken) -> Summary:
        """Summarise a column (by number in the table) as of a line."""
        rows = self.rows_at(selected) or RowSet(self.table.rows)
        assert self.session.executor is not None
        shown = next(each for each in self.scope_at(selected).known if each.number == column + 1)
        return summarise(shown, rows, self.session.executor.runner, token)

    def frequent(self, name: str, selected: int) -> Sequence[tuple[str, int]]:
        """Return frequent values of a column with their rows: of all rows where that is quick, else of a spread."""
        column = self.scope_at(selected).find(name)
        if column is None:
            return ()
        if not isinstance(column.value, b.ColumnValue):
            return ()
        number = column.value.column
        known = self._frequent.get(number)
        if known is None:
            known = self._frequent[number] = self._count_values(number)
        return known

    def _count_values(self, column: int) -> tuple[tuple[str, int], ...]:
        from collections import Counter

        where = self.table.columns[column]
        # of a column that still stands in its own file the first rows must do: a look all over it would read it
        ids = spread(RowSet(self.table.rows)) if where.is_loaded else RowSet(self.table.rows).ids(0, _FIRST_ROWS)
        counted = Counter(text for text in where.take(ids).texts() if text is not None)
        scale = self.table.rows / max(1, len(ids))
        return tuple((text, round(count * scale)) for text, count in counted.most_common(_FREQUENT))

    def completions(self, text: str, selected: int) -> Completion:
        """Return what could stand at the end of a line being written behind a line."""
        if is_sub_line(text):
            return complete_source_line(text, [(column.name, column.kind.value) for column in self.table.columns])
        return complete(text, self.scope_at(selected), lambda name: self.frequent(name, selected))

    # writing

    def try_line(self, text: str, selected: int, editing: int | None, token: CancelToken, progress: Progress) -> Trial:
        """Work out what a line being written would do, behind the selected line or in place of the one edited."""
        if is_sub_line(text):
            return self.try_source_line(text, token)
        index = self.place_of(text, selected, editing) - 1
        wrong = self.wrong_with(text, selected, editing)
        if wrong is not None:
            return wrong
        cut = self.session.cut
        lines = (*cut.lines[:index], Line(text))
        bound = bind_line(text, self.scope_at(index - 1), default_seed=_PREVIEW_SEED)
        results = list(self.session.results(token, progress, cut=Cut(cut.name, lines), seed=_PREVIEW_SEED))
        return Trial(text, results[-1] if len(results) == len(lines) else None, hints=bound.hints if bound else ())

    def wrong_with(self, text: str, selected: int, editing: int | None) -> Trial | None:
        """Return what is wrong with a line being written, or ``None``. Quick: nothing is run."""
        if is_sub_line(text):
            try:
                parse_sub_line(text)
            except ListError as error:
                return Trial(text, error=error)
            return None
        scope = self.scope_at(self.place_of(text, selected, editing) - 2)
        try:
            bind_line(text, scope, default_seed=_PREVIEW_SEED)
        except ListError as error:
            mend, applied = mended(text, scope)
            return Trial(text, error=error, mend=mend if applied else None)
        return None

    def try_source_line(self, text: str, token: CancelToken) -> Trial:
        """Work out what a sub-line of the source would change, as far as that can be told without reading again."""
        try:
            line = parse_sub_line(text)
        except ListError as error:
            return Trial(text, error=error)
        token.check()
        hints: list[str] = []
        if isinstance(line, KindLine):
            names = [column.name for column in self.table.columns]
            for selector, declared in line.items:
                places = selector.places(names)
                if not places:
                    return Trial(text, error=ListError(f"no column is called {selector.first}", end=len(text)))
                hints += [values_unfit(self.table.columns[place], declared).sentence() for place in places[:8]]
        token.check()
        preview: Preview | None = None
        with contextlib.suppress(SourceError, ListError):
            preview = Opening(self.session.spec.with_line(line)).preview
        return Trial(text, source_line=line, preview=preview, hints=tuple(hints))

    def place_of(self, text: str, selected: int, editing: int | None) -> int:
        """Return the number (from 1) a line being written will have."""
        if editing is not None:
            return editing + 1
        words = text.split()
        return self.session.cut.place_for(selected, words[0].lower() if words else "keep") + 1

    def line_about(self, verb: str, name: str, kind: str, text: str | None) -> str:
        """Return a line that keeps or drops the rows with one cell's value."""
        from yardcut.core.language.printing import name_text

        written = name_text(name)
        if text is None:
            return f"{verb} {written} IS NULL"
        return f"{verb} {written} = {_literal(Kind(kind), text)}"

    def slice_at(self, selected: int) -> Frame | None:
        """Return the slice as of a line."""
        rows = self.rows_at(selected)
        return None if rows is None else Frame(self.table, rows, self.scope_at(selected).shown)


def _literal(kind: Kind, text: str) -> str:
    if kind is Kind.TEXT:
        return literal(kind, text)
    if kind is Kind.BOOLEAN:
        return text.upper()
    if kind.is_temporal or kind is Kind.INSTANT:
        return f"'{text}'"
    return text

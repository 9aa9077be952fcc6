"""What was worked out of columns: kept by the rows it was worked out of and the column's value, never by a line."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable

from yardcut.core.cached import Kept
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.helping.completing_lines import Frequent
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.profile.distinct import DistinctValues, distinct_values
from yardcut.core.profile.gathering import GatherRound
from yardcut.core.profile.shape import shape, spread
from yardcut.core.profile.summary import Summary, summarise
from yardcut.core.profile.totals import total_among
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind
from yardcut.tui.desk.figured_rows import Rows

_MOST_SUMMARIES, _MOST_SHAPES, _MOST_FREQUENT, _MOST_DISTINCT = 2_000, 20_000, 1_000, 20
_EXACT_ROWS = 1 << 17
_MOST_TEXTS = 400
_FIRST_ROWS = 1 << 12

Shape = tuple[tuple[int, ...], tuple[int, ...]]


class Looks:
    """Summaries, small distributions and frequent values. Any thread may ask; what is known is there at once."""

    def __init__(self, runner: Runner) -> None:
        self._runner = runner
        self._summaries: Kept[Hashable, Summary] = Kept(_MOST_SUMMARIES)
        self._shapes: Kept[Hashable, Shape] = Kept(_MOST_SHAPES)
        self._frequent: Kept[Hashable, Frequent] = Kept(_MOST_FREQUENT)
        self._distinct: Kept[Hashable, DistinctValues] = Kept(_MOST_DISTINCT)

    def known_summary(self, rows: Rows, column: b.ShownColumn) -> Summary | None:
        """Return the summary of a column if it is known."""
        return self._summaries.get((rows.fingerprint, column.value, column.name))

    def summary(
        self, rows: Rows, column: b.ShownColumn, token: CancelToken, progress: Progress | None = None
    ) -> Summary:
        """Summarise a column over some rows. May take long."""

        def work_out() -> Summary:
            rows.frame.table.load(columns_of(column.value), token, progress)
            return summarise(column, rows.frame.rows, self._runner.over(rows.frame.table), token)

        return self._summaries.get_or((rows.fingerprint, column.value, column.name), work_out)

    def distinct(
        self, rows: Rows, column: b.ShownColumn, token: CancelToken, progress: Progress | None = None
    ) -> DistinctValues:
        """Return the different values of a column with the rows of each. May take long."""

        def work_out() -> DistinctValues:
            return distinct_values(column.value, rows.frame.rows, self._runner.over(rows.frame.table), token, progress)

        return self._distinct.get_or((rows.fingerprint, column.value), work_out)

    def first_distinct(self, rows: Rows, column: b.ShownColumn, token: CancelToken) -> DistinctValues | None:
        """Return the different values among the first rows, where counting them all takes long and is not done yet."""
        members, table = rows.frame.rows, rows.frame.table
        stored = [table.columns[number] for number in columns_of(column.value)]
        is_long = any(each.info.storage != "codes" for each in stored) and column.kind is Kind.TEXT
        known = self._distinct.get((rows.fingerprint, column.value))
        if known is not None or not is_long or members.count <= 2 * _EXACT_ROWS:
            return None
        first = RowSet(members.table_rows, bit.of_ids(members.ids(0, _EXACT_ROWS), members.table_rows))
        return distinct_values(column.value, first, self._runner.over(table), token)

    def total_among(
        self, rows: Rows, column: b.ShownColumn, found: DistinctValues, token: CancelToken
    ) -> tuple[str, str] | None:
        """Return a value of a column whose rows look like totals of the others, and the column whose sums say so."""
        frame = rows.frame
        return total_among(column, found.values, frame.columns, frame.rows, self._runner.over(frame.table), token)

    def known_shape(self, rows: Rows, column: b.ShownColumn) -> Shape | None:
        """Return the small distribution of a column if it is known."""
        return self._shapes.get((rows.fingerprint, column.value))

    def shape(self, rows: Rows, column: b.ShownColumn, token: CancelToken, progress: Progress | None = None) -> Shape:
        """Work out the small distribution of a column, of now and of the source. May take long."""

        def work_out() -> Shape:
            token.check()
            table = rows.frame.table
            table.load(columns_of(column.value), token, progress)
            # a made column may be one of rows drawn with replacement only
            source = table.source if isinstance(column.value, b.ColumnValue) else table
            earlier = Scatter(source, spread(RowSet(source.rows)))
            return shape(column.value, earlier, Scatter(table, spread(rows.frame.rows)))

        return self._shapes.get_or((rows.fingerprint, column.value), work_out)

    def frequent(self, rows: Rows, column: b.ShownColumn, token: CancelToken) -> Frequent:
        """Return the commonest values of a column among some rows: exact where that is quick, else marked."""
        return self._frequent.get_or((rows.fingerprint, column.value), lambda: self._count(rows, column, token))

    def _count(self, rows: Rows, column: b.ShownColumn, token: CancelToken) -> Frequent:
        frame, value = rows.frame, column.value
        members, table = frame.rows, frame.table
        stored = [table.columns[number] for number in columns_of(value)]
        if not all(each.is_loaded for each in stored):
            # of a column that still stands in its own file the first rows must do: a look all over it would read it
            ids = members.ids(0, _FIRST_ROWS)
        elif column.kind is Kind.TEXT and all(each.info.storage == "codes" for each in stored) and stored:
            gathered = self._runner.over(table).run(GatherRound(value, members.bits), token)
            if gathered.dictionary is not None and gathered.counts is not None:
                pairs = zip(gathered.dictionary.texts, gathered.counts.tolist(), strict=True)
                counted = Counter({text: count for text, count in pairs if count})
                return Frequent(tuple(counted.most_common(_MOST_TEXTS)))
            ids = spread(members)
        else:
            ids = members.ids(0, members.count) if members.count <= _EXACT_ROWS else spread(members)
        counted = Counter(text for text in evaluate(value, Scatter(table, ids)).texts() if text is not None)
        scale = members.count / max(1, len(ids))
        about = len(ids) < members.count
        return Frequent(tuple((text, round(count * scale)) for text, count in counted.most_common(_MOST_TEXTS)), about)

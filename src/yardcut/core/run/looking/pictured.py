"""The bars of a picture: the rows of a top or bottom, a draw beside the whole, a tally, the plank."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.cutlist.notes import note_of
from yardcut.core.errors import ListError
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue, ColumnValue, ShownColumn
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.pictures.bar_data import MOST_BARS, STACKED, Bars, Series
from yardcut.core.profile.balance import ColumnBalance
from yardcut.core.run.executing.results import LineResult
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind


def top_value(result: LineResult) -> BoundValue | None:
    """Return what a top or bottom ranks by, where that is a number; ``None`` for any other line."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundDraw) or not body.keys or body.draw.remainder:
        return None
    value = body.keys[0].named
    return value if value.kind.is_numeric else None


def top_bars(result: LineResult, label: ShownColumn) -> Bars:
    """Return a bar for each row of a top or bottom, the best first, labelled by a column."""
    value = top_value(result)
    assert value is not None
    body = result.line.bound.body if result.line.bound is not None else None
    assert isinstance(body, BoundDraw)
    ids = result.rows.ids(0, min(result.rows.count, MOST_BARS))
    window = Scatter(result.frame.table, ids)
    vector = evaluate(value, window)
    assert isinstance(vector, NumericVector)
    numbers = np.nan_to_num(vector.values.astype(np.float64), posinf=0.0, neginf=0.0)
    labels = tuple("no value" if text is None else text for text in evaluate(label.value, window).texts())
    name = body.keys[0].text
    series = Series(name, tuple(numbers.tolist()), tuple(text or "" for text in vector.texts()))
    count = result.rows.count
    title = f"{'largest' if body.draw.form == 'top' else 'smallest'} {count:,} by {name}"
    if count > MOST_BARS:
        title += f", the first {MOST_BARS}"
    return Bars(title, name, labels, (series,))


def telling_place(result: LineResult) -> int:
    """Return the place of the first column that tells the rows of a result apart, texts before others; 0 if none does.

    Each of the rows that are drawn has a value there, and no two the same.
    """
    window = Scatter(result.frame.table, result.rows.ids(0, min(result.rows.count, MOST_BARS)))
    places = sorted(range(len(result.shown)), key=lambda place: result.shown[place].kind is not Kind.TEXT)
    for place in places:
        texts = evaluate(result.shown[place].value, window).texts()
        if None not in texts and len(set(texts)) == len(texts):
            return place
    return 0


def balance_bars(balances: Sequence[ColumnBalance], name: str) -> Bars:
    """Return the shares of a column's values in the draw beside those in the whole, in percent."""
    balance = next(each for each in balances if each.name == name)
    whole, drawn = ([100 * balance.shares(each)[side] for each in balance.portions] for side in (0, 1))
    labels = tuple(each.label for each in balance.portions)
    of = (f"the draw ({balance.drawn:,} rows)", drawn), (f"the whole ({balance.whole:,} rows)", whole)
    series = tuple(Series(said, tuple(shares), tuple(f"{share:.1f}%" for share in shares)) for said, shares in of)
    return Bars(f"{name} in the draw and in the whole", "percent of the rows", labels, series)


def tally_bars(results: Sequence[LineResult], column: ShownColumn, first: int, kind: str) -> Bars:
    """Return what a tally came to: for the first rows of the last result, labelled by groups, a column's numbers.

    Columns of one measure along a value are series beside each other. Raises ``ListError`` where there are no rows.
    """
    frame = results[-1].frame
    series_of, what = _series_beside(results, column)
    labels_of = [each for each in frame.columns if not each.kind.is_numeric] or [frame.columns[0]]
    rows = frame.rows.ids(0, min(frame.rows.count, first))
    if not len(rows):
        raise ListError("there are no rows here to draw")
    window = Scatter(frame.table, rows)
    texts = [evaluate(each.value, window).texts() for each in labels_of]
    labels = tuple(" · ".join("no value" if text is None else text for text in row) for row in zip(*texts, strict=True))
    series = []
    for each in series_of:
        vector = evaluate(each.value, window)
        assert isinstance(vector, NumericVector)
        values = np.where(_known(vector), vector.values.astype(np.float64), 0.0)
        series.append(Series(each.name, tuple(values.tolist()), tuple(text or "" for text in vector.texts())))
    groups = ", ".join(each.name for each in labels_of)
    return Bars(f"{what} per {groups}", what, labels, tuple(series), kind=kind)


def _series_beside(results: Sequence[LineResult], column: ShownColumn) -> tuple[list[ShownColumn], str]:
    """Return the columns that are of one measure along a value, a few at most, and what they are of."""
    anew = next((result for result in reversed(results) if result.starts_anew), None)
    body = anew.line.bound.body if anew is not None and anew.line.bound is not None else None
    groups = len(body.groups) if isinstance(body, BoundTally) else 0
    value = column.value
    if (
        not isinstance(body, BoundTally)
        or body.along is None
        or not isinstance(value, ColumnValue)
        or value.column < groups
    ):
        return [column], column.name
    of_measure = (value.column - groups) % len(body.measures)
    found = [
        each
        for each in results[-1].shown
        if isinstance(each.value, ColumnValue) and each.value.column >= groups
        and (each.value.column - groups) % len(body.measures) == of_measure
    ]  # fmt: skip
    return (found, body.measures[of_measure].name) if len(found) <= _MOST_SERIES else ([column], column.name)


_MOST_SERIES = 6


def _known(vector: NumericVector) -> Array:
    missing = vector.missing_mask()
    finite = np.isfinite(vector.values.astype(np.float64))
    return finite if missing is None else finite & ~missing


def plank_bars(results: Sequence[LineResult], title: str) -> Bars:
    """Return the plank of a cut: for the source and each line the rows left, and behind them those it took."""
    before = results[0].before.rows.count if results else 0
    labels, left, taken = ["source"], [float(before)], [0.0]
    for number, result in enumerate(results, 1):
        labels.append(f"{number}  {result.line.line.text.strip()}")
        left.append(float(result.rows.count))
        taken.append(float(max(0, result.taken)))
    texts = tuple(f"{count:,.0f}" for count in left)
    notes = ["", *(note_of(result.line.line) for result in results)]
    gone = tuple(
        " · ".join(filter(None, (f"−{count:,.0f}" if count else "", note)))
        for count, note in zip(taken, notes, strict=True)
    )
    series = (Series("left", tuple(left), texts), Series("taken by the line", tuple(taken), gone))
    return Bars(title, "rows", tuple(labels), series, kind=STACKED)

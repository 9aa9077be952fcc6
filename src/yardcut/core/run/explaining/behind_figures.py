"""Which rows a figure of a tally is made of, as a line that keeps them above it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.value_sets import literal_node
from yardcut.core.language.meaning.bound import ColumnValue, Constant, ShownColumn
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.tally import BoundTally, constant_text
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.results import LineResult
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class Behind:
    """The line with the index ``tally`` put the rows together that ``line``, above it, keeps."""

    tally: int
    line: str


def behind_figure(results: Sequence[LineResult], frame: Frame, row_id: int, column: ShownColumn) -> Behind | None:
    """Return what stands behind a cell of rows that were put together; ``None`` where they were not, or of all rows."""
    index = next((at for at in range(len(results) - 1, -1, -1) if results[at].starts_anew), None)
    if index is None or frame.table.leads_to_source:
        return None
    result = results[index]
    body = result.line.bound.body if result.line.bound is not None else None
    place = int(frame.table.source_ids(np.array([row_id]))[0])
    if not isinstance(body, BoundTally) or place >= result.rows.count:
        return None
    groups = len(body.groups)
    cells = result.frame.page(place, place + 1, range(groups)).cells
    wanted: list[t.Expression] = [
        _equals(item.value, value.kind, cell[0])
        for item, value, cell in zip(body.tally.per, body.groups, cells, strict=True)
    ]
    measure = _measure_of(body, column, len(result.frame.columns), result)
    if measure is not None:
        number, along = measure
        if body.along is not None and body.tally.along is not None:
            wanted.append(_equals(body.tally.along, body.along.kind, None if along is None else constant_text(along)))
        value = body.tally.measures[number].value
        if isinstance(value, t.Aggregated) and value.where is not None:
            wanted.append(value.where)
    if not wanted:
        return None
    condition = wanted[0] if len(wanted) == 1 else t.And(tuple(wanted))
    return Behind(index, f"keep {expression_text(condition)}")


def _equals(value: t.Expression, kind: Kind, text: str | None) -> t.Expression:
    if text is None:
        return t.IsNull(value)
    literal = literal_node(kind, text)
    if kind is Kind.BOOLEAN:
        return value if text == "true" else t.Not(value)
    return t.Comparison("=", value, literal)


def _measure_of(
    body: BoundTally, column: ShownColumn, columns: int, result: LineResult
) -> tuple[int, Constant | None] | None:
    """Return the number of the measure that a column shows, and the value it stands along; ``None``: a group's."""
    if not isinstance(column.value, ColumnValue) or not len(body.groups) <= column.value.column < columns:
        return None
    place = column.value.column - len(body.groups)
    if body.along is None:
        return place, None
    values = body.sequence or result.worked.along
    return place % len(body.measures), values[place // len(body.measures)]

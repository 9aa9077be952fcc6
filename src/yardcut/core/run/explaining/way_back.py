"""Calling one row back: the line loosened by just what keeps the row out."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from yardcut.core.errors import ListError
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.condition_tree import replaced, with_alternative, with_exception
from yardcut.core.language.helping.value_sets import literal_node, values_of
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter_parts import Drop
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.loosening import LITERALS, Loosening, is_written_out
from yardcut.core.run.explaining.tree_counts import Counting, condition_of, value_and_bound
from yardcut.core.table import bits as bit
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind

_MOST_WAYS = 6


def ways_back(result: LineResult, source_id: int, executor: Executor, token: CancelToken) -> Iterator[Loosening]:
    """Yield forms of a keep or drop line that leave a row it removed, with the rows each leaves; the row alone last.

    The row is given by its place in the source, from 0.
    """
    root = condition_of(result)
    statement = result.line.statement
    if root is None or statement is None:
        return
    row_id = result.before.table.id_of(source_id)
    way = _WayBack(result, row_id, executor, token)
    drops = isinstance(statement.body, Drop)
    alone = t.Comparison("=", t.SourceRow(), t.Number(str(source_id + 1)))
    found: list[tuple[str, t.Expression | None]] = []
    if drops:
        found += [(_says(root, other), other) for other in way.tightened(root)]
        found.append(("this row alone", with_exception(root, alone)))
    else:
        found += [(_says(root, other), other) for other in way.loosened(root)]
        found.append(("this row alone", with_alternative(root, alone)))
    seen: set[str] = set()
    for says, other in found[: _MOST_WAYS + 1]:
        if other is None:
            continue
        body = replace(statement.body, condition=other)  # type: ignore[call-arg] # it is a keep or drop
        text = statement_text(replace(statement, body=body))
        left = way.counting.left_bits(other)
        if text not in seen and left is not None and bit.at(left, np.array([row_id]))[0]:
            seen.add(text)
            yield Loosening(says, text, bit.count(left))


def _says(root: t.Expression, other: t.Expression) -> str:
    return f"as {expression_text(other)}" if root != other else ""


class _WayBack:
    """What can be done for one row of one line."""

    def __init__(self, result: LineResult, row_id: int, executor: Executor, token: CancelToken) -> None:
        self._result, self._executor = result, executor
        self._row = np.array([row_id], dtype=np.int64)
        self.counting = Counting(result, executor, token)

    def _is_true(self, node: t.Expression) -> bool:
        answers = self.counting.answers(node)
        return answers is not None and bool(bit.at(answers.true, self._row)[0])

    def _value(self, node: t.Expression) -> tuple[Kind, str | None] | None:
        """Return what a value is in the row, and its kind."""
        try:
            value = self._executor.value(node, self._result)
        except ListError:
            return None
        text = evaluate(value, Scatter(self._result.before.table, self._row)).texts()[0]
        if value.kind is Kind.NUMBER and text is not None and not is_written_out(float(text)):
            return None
        return value.kind, text

    def loosened(self, node: t.Expression) -> Iterator[t.Expression]:
        """Yield forms of a condition that are true of the row: all failing parts of ALL, or one of ANY, let it in."""
        if self._is_true(node):
            yield node
            return
        match node:
            case t.And(items):
                ways = [next(self.loosened(item), None) for item in items]
                if all(way is not None for way in ways):
                    yield t.And(tuple(way for way in ways if way is not None))
            case t.Or(items):
                for place, item in enumerate(items):
                    for way in self.loosened(item):
                        yield replaced(node, (place,), way) or way
            case _:
                yield from self._piece(node)

    def _piece(self, piece: t.Expression) -> Iterator[t.Expression]:
        about, bounds = value_and_bound(piece)
        found = None if about is None else self._value(about)
        if about is None or found is None:
            return
        kind, text = found
        if text is None:
            yield t.Or((t.IsNull(about), piece))
            return
        value = literal_node(kind, text)
        for is_upper, field in bounds:
            if not isinstance(getattr(piece, field), LITERALS):
                continue
            changed: dict[str, t.Expression | str] = {field: value}
            if isinstance(piece, t.Comparison):
                changed["operator"] = "<=" if is_upper else ">="
            other = replace(piece, **changed)  # type: ignore[arg-type] # the fields are there
            if self._is_true(other):
                yield other
        match piece:
            case t.Comparison("=", left, right, ignoring) if isinstance(right, LITERALS):
                yield t.In(left, (right, value), ignoring_case=ignoring)
            case t.In(left, items, False, ignoring):
                yield t.In(left, (*items, value), ignoring_case=ignoring)

    def tightened(self, node: t.Expression) -> Iterator[t.Expression]:
        """Yield forms of a condition that are not true of the row: all parts of ANY that are, or one of ALL, go."""
        if not self._is_true(node):
            yield node
            return
        match node:
            case t.Or(items):
                ways = [next(self.tightened(item), None) for item in items]
                if all(way is not None for way in ways):
                    yield t.Or(tuple(way for way in ways if way is not None))
            case t.And(items):
                for place, item in enumerate(items):
                    for way in self.tightened(item):
                        yield replaced(node, (place,), way) or way
            case t.Comparison("<" | "<=" | ">" | ">=", left, right) if isinstance(right, LITERALS):
                found = self._value(left)
                if found is not None and found[1] is not None:
                    yield t.Comparison(node.operator[0], left, literal_node(found[0], found[1]))
            case t.In(left, items, False, _) if len(items) > 1:
                found = self._value(left)
                if found is not None and isinstance(left, t.Name):
                    rest = tuple(
                        item
                        for item in items
                        if values_of(t.In(left, (item,)), left.name, found[0]) != frozenset([found[1]])
                    )
                    if rest and len(rest) < len(items):
                        yield replace(node, items=rest)

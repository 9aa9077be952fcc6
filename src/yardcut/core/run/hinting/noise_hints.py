"""Values of a made column that carry the noise of binary: ROUND to the digits its inputs have, offered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.verbs.make import BoundMake, Make
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind

_ROWS_LOOKED_AT = 2_000
_NOISY_DIGITS = 16
"""Significant digits of the shortest exact form, from which on they are no longer anybody's."""
_MOST_DECIMALS = 8


def noise_hints(result: LineResult, executor: Executor, token: CancelToken) -> Iterator[Hint]:
    """Yield a hint for each column that a make line computes with noise behind its last true digit."""
    bound, statement = result.line.bound, result.line.statement
    if bound is None or statement is None or not isinstance(bound.body, BoundMake):
        return
    assert isinstance(statement.body, Make)
    for place, column in enumerate(bound.body.made):
        token.check()
        seen = _Seen(result, token)
        made = column.value
        digits = seen.decimals(made.value) if isinstance(made, b.Made) and column.kind is Kind.NUMBER else None
        noisy = None if digits is None else next((text for text in seen.texts(made) if _is_noisy(text, digits)), None)
        if digits is None or noisy is None:
            continue
        items = list(statement.body.items)
        rounded = t.Call("ROUND", (items[place].value, t.Number(str(digits))))
        items[place] = replace(items[place], value=rounded)
        line = statement_text(replace(statement, body=replace(statement.body, items=tuple(items))))
        yield Hint(f"{column.name} carries the noise of binary fractions: {noisy}; on screen it is left away", line)


def _is_noisy(text: str, digits: int) -> bool:
    """Tell whether a number has more digits than a double holds for sure, and they say nothing."""
    if sum(map(str.isdigit, text.partition("e")[0].lstrip("-0."))) < _NOISY_DIGITS:
        return False
    value = float(text)
    return abs(round(value, digits) - value) <= 1e-9 * max(1.0, abs(value))


class _Seen:
    """The first rows that reach a line, and how many decimals values have there."""

    def __init__(self, result: LineResult, token: CancelToken) -> None:
        rows = result.before.rows
        self._table = result.before.table
        self._window = Scatter(self._table, rows.ids(0, min(rows.count, _ROWS_LOOKED_AT)))
        self._token = token

    def texts(self, value: b.BoundValue) -> Iterator[str]:
        """Yield the values as texts, in their shortest exact form; none where a column would have to be read."""
        if all(self._table.columns[number].is_loaded for number in columns_of(value)):
            yield from (text for text in evaluate(value, self._window).texts() if text is not None)

    def decimals(self, value: b.BoundValue) -> int | None:
        """Return how many decimals a value can have; ``None`` where that is not told by its inputs."""
        match value:
            case b.Made(inner):
                return self.decimals(inner)
            case b.Minus(inner):
                return self.decimals(inner)
            case b.Constant(kind=kind, value=constant) if kind.is_numeric:
                return len(str(constant).partition(".")[2])
            case b.ColumnValue(kind=kind) if kind.is_numeric:
                return max((len(text.partition(".")[2]) for text in self.texts(value)), default=0)
            case b.Computed(operator=operator, left=left, right=right) if operator in "+-*":
                one, other = self.decimals(left), self.decimals(right)
                if one is None or other is None:
                    return None
                digits = one + other if operator == "*" else max(one, other)
                return digits if digits <= _MOST_DECIMALS else None
            case _:
                return None

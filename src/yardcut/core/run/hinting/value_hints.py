"""Hints that need a look at the values: pieces that cannot be meant as they stand, each with its mend."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import replace
from decimal import Decimal

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.completing_lines import Frequent
from yardcut.core.language.helping.condition_tree import Path, children, node_at, replaced, walk
from yardcut.core.language.helping.mends_of_slips import fix_in_place
from yardcut.core.language.helping.twins import alike
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.meaning.dials_put_in import put_in_condition
from yardcut.core.language.syntax.printing import expression_text, name_text
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.mends_offered import likely_value
from yardcut.core.run.explaining.tree_counts import Counting, condition_of
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_MOST_ROWS = 1 << 21
"""Of a column of many different texts over more rows the values are not looked at for a hint."""
_MOST_PIECES, _MOST_NAMED, _MOST_LISTED, _MOST_ABSENT = 24, 3, 12, 3


def value_hints(result: LineResult, executor: Executor, token: CancelToken) -> tuple[Hint, ...]:
    """Return the hints about a keep or drop line."""
    root = condition_of(result)
    if root is None or not result.before.rows.count:
        return ()
    try:
        root = put_in_condition(root, result.line.scope.dials)
    except ListError:
        return ()
    work = _Hints(result, root, executor, token)
    found = [*work.of_brackets()]
    pieces = [(path, node) for path, node in walk(root) if not children(node) and not isinstance(node, t.Off)]
    for path, piece in pieces[:_MOST_PIECES]:
        token.check()
        said = list(work.of_values(path, piece))
        found += said or work.of_count(piece, len(pieces))
    return tuple(dict.fromkeys(found))


Meant = Callable[[t.Expression], t.Expression]
"""Gives a piece with another value in it."""


class _Hints:
    """The hints of one line."""

    def __init__(self, result: LineResult, root: t.Expression, executor: Executor, token: CancelToken) -> None:
        self._result, self._root, self._executor, self._token = result, root, executor, token
        self._counting = Counting(result, executor, token)
        bound = result.line.bound
        self._bound_hints = () if bound is None else bound.hints
        self._known: dict[t.Expression, dict[str, int] | None] = {}

    def _with(self, path: Path, piece: t.Expression) -> str:
        """Write the line with another piece at a path."""
        statement, root = self._result.line.statement, replaced(self._root, path, piece)
        assert statement is not None
        body = replace(statement.body, condition=root)  # type: ignore[call-arg] # it is a keep or drop
        return statement_text(replace(statement, body=body))

    def _values(self, node: t.Expression) -> dict[str, int] | None:
        """Return the texts of a column with their rows; ``None`` where it has none, or they would take too long."""
        if node not in self._known:
            self._known[node] = self._look(node)
        return self._known[node]

    def _look(self, node: t.Expression) -> dict[str, int] | None:
        try:
            value = self._executor.value(node, self._result)
        except ListError:
            return None
        table, rows = self._result.before.table, self._result.before.rows
        columns = [table.columns[number] for number in columns_of(value)]
        stored = [column.info for column in columns]
        if value.kind is not Kind.TEXT or not stored or not all(column.is_loaded for column in columns):
            return None  # a hint is not worth reading a column that still stands in its own file
        if rows.count > _MOST_ROWS and any(info.storage != "codes" for info in stored):
            return None
        found = distinct_values(value, rows, self._executor.runner.over(table), self._token)
        return dict(found.values) if found.is_whole else None

    # values

    def of_values(self, path: Path, piece: t.Expression) -> Iterator[Hint]:
        """Yield hints about the texts a piece compares a column with."""
        match piece:
            case t.Comparison("=" | "<>", t.Name() as name, t.Text(value), ignoring):
                yield from self._of_one(path, piece, name, value, ignoring)
            case t.In(t.Name() as name, items, ignoring_case=ignoring):
                yield from self._of_list(path, piece, name, items, ignoring)
            case t.Between(low=low, high=high, symmetric=False):
                runs = f"BETWEEN {expression_text(low)} AND {expression_text(high)} runs from high to low"
                if any(hint.startswith(runs) for hint in self._bound_hints):
                    yield Hint(f"{runs} and is never true", self._with(path, replace(piece, symmetric=True)))
            case t.Like(t.Name() as name, t.Text(pattern), escape=None) if re.search(r"[*?]", pattern):
                yield from self._of_stars(path, piece, name, pattern)
            case t.Comparison("<" | "<=" | ">" | ">=", t.Name() as name, t.Text(value)) if _is_number(value):
                counts = self._values(name)
                if counts and all(map(_is_number, list(counts)[:_MOST_PIECES])):
                    written = t.Number(f"{Decimal(value.strip().lstrip('+'))}")
                    number = t.Comparison(piece.operator, t.Call("CAST", (name, t.Word("number"))), written)
                    says = f"{name.name} is a text, and texts compare letter by letter: '9' > '10'"
                    yield Hint(says, self._with(path, number))

    def _of_stars(self, path: Path, piece: t.Like, name: t.Name, pattern: str) -> Iterator[Hint]:
        counts = self._values(name)
        if counts is None or any("*" in value or "?" in value for value in counts):
            return
        meant = pattern.replace("*", "%").replace("?", "_")
        says = "* and ? are letters like any other here, and no value has one: % is any text, _ one character"
        yield Hint(says, self._with(path, replace(piece, pattern=t.Text(meant))))

    def _of_one(self, path: Path, piece: t.Comparison, name: t.Name, value: str, ignoring: bool) -> Iterator[Hint]:
        counts = self._values(name)
        if counts is None:
            return
        others = {text: count for text, count in counts.items() if text != value and alike(text) == alike(value)}
        if ignoring:
            padded = {text: count for text, count in others.items() if text != text.strip()}
            if padded:
                yield Hint(f"IGNORING CASE also takes {_listed(padded)}")
        elif value not in counts:
            yield self._of_absent(path, name, value, counts, lambda meant: replace(piece, right=meant))
        elif others:
            ignored = self._with(path, replace(piece, ignoring_case=True))
            yield Hint(f"{quote_text(value)} {counts[value]:,}; also {_listed(others)}", ignored)

    def _of_list(
        self, path: Path, piece: t.In, name: t.Name, items: tuple[t.Expression, ...], ignoring: bool
    ) -> Iterator[Hint]:
        counts = None if ignoring else self._values(name)
        if counts is None:
            return
        written = [item.value for item in items if isinstance(item, t.Text)]
        if 1 < len(written) <= _MOST_LISTED:
            shown = " · ".join(f"{value} {counts.get(value, 0):,}" for value in written)
            yield Hint(f"{name.name}: {shown}", is_note=True)
        absent = [place for place, item in enumerate(items) if isinstance(item, t.Text) and item.value not in counts]
        if len(absent) > _MOST_ABSENT:
            shown = ", ".join(expression_text(items[place]) for place in absent[:_MOST_ABSENT])
            yield Hint(f"{len(absent):,} of these values stand in no row that reaches the line: {shown}, …")
            return
        for place in absent:

            def meant(other: t.Expression, place: int = place) -> t.Expression:
                return replace(piece, items=(*items[:place], other, *items[place + 1 :]))

            item = items[place]
            assert isinstance(item, t.Text)
            yield self._of_absent(path, name, item.value, counts, meant)

    def _of_absent(self, path: Path, name: t.Name, value: str, counts: dict[str, int], meant: Meant) -> Hint:
        """Say that no row has a value, and which one is likely meant."""
        by_count = tuple(sorted(counts.items(), key=lambda pair: -pair[1]))
        likely = likely_value(value, Frequent(by_count))
        says = f"no row that reaches the line has {quote_text(value)} in {name.name}"
        if likely is not None:
            text, count = likely
            return Hint(f"{says}; {quote_text(text)} stands in {count:,}", self._with(path, meant(t.Text(text))))
        if (missing := self._read_as_missing(name, value)) is not None:
            return Hint(missing)
        if self._result.line.scope.find(value) is not None:
            column = self._with(path, meant(t.Name(value)))
            return Hint(f"{says}; without quotes {value} is the column of that name", column)
        return Hint(says)

    def _read_as_missing(self, name: t.Name, value: str) -> str | None:
        """Say that a text means no value in the source, where a column of it has rows without one."""
        column = self._result.line.scope.find(name.name)
        table = self._result.before.table
        if column is None or not isinstance(column.value, ColumnValue):
            return None
        info = table.columns[column.value.column].info
        if value != info.lost_code:
            return None
        cells = "1 cell" if info.missing == 1 else f"{info.missing:,} cells"
        return (
            f"{quote_text(value)} is read as no value: {cells} of {name.name} say so or nothing; to keep it as a text: "
            f"no value '' in {name_text(name.name)}"
        )

    # counts and brackets

    def of_count(self, piece: t.Expression, pieces: int) -> list[Hint]:
        """Say that a piece among others is true of all rows, or of none."""
        if pieces < 2 or not self._counting.is_at_hand(piece):
            return []  # a hint is not worth reading a column that still stands in its own file
        answers = self._counting.answers(piece)
        if answers is None:
            return []
        true = self._counting.rows_in(answers.true)
        word = {0: "no row", self._result.before.rows.count: "every row"}.get(true)
        return [] if word is None else [Hint(f"{expression_text(piece)} is true of {word} that reaches the line")]

    def of_brackets(self) -> Iterator[Hint]:
        """Say how AND and OR without brackets are read, and offer to write it so."""
        text = self._result.line.line.text
        for path, node in walk(self._root):
            inner = node_at(self._root, path[:-1]) if path else None
            if not isinstance(node, t.And) or not isinstance(inner, t.Or):
                continue
            start, end = node.span
            if end <= start or (text[:start].rstrip().endswith("(") and text[end:].lstrip().startswith(")")):
                continue
            bracketed = fix_in_place(text, start, end, f"({text[start:end]})")
            yield Hint("AND binds more tightly than OR; with brackets it says so", bracketed)
            return


def _listed(counts: dict[str, int]) -> str:
    named = sorted(counts.items(), key=lambda pair: -pair[1])
    said = ", ".join(f"{quote_text(text)} {count:,}" for text, count in named[:_MOST_NAMED])
    return said + (f" and {len(named) - _MOST_NAMED} more" if len(named) > _MOST_NAMED else "")


def _is_number(text: str) -> bool:
    return text.strip().lstrip("+-").replace(".", "", 1).isdecimal()

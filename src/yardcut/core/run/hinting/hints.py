"""Hints that a line's result alone gives, without a look at the values."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from itertools import islice

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_named
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.filter_parts import Keep
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.table.stored_table import FileInfo

_MOST_NAMED = 2
_MOST_FILES = 3


def bound_hints(result: LineResult) -> Iterator[Hint]:
    """Yield what was found odd when the line was bound to its columns."""
    if result.line.bound is not None:
        yield from map(Hint, result.line.bound.hints)


def rows_lost_to_not(result: LineResult) -> Iterator[Hint]:
    """Say how to keep the rows that a NOT or ``<>`` leaves out only for want of a value.

    Who writes "not this" mostly means "anything else, or nothing at all" (ISO/IEC 9075-2, 8.21 makes it unknown).
    """
    line = line_with_missing(result)
    if line:
        yield Hint(f"a missing value is not unlike anything; to keep those rows too: {line}", line)


def line_with_missing(result: LineResult) -> str:
    """Return the line that keeps those rows too; "" where none are lost so."""
    bound, statement = result.line.bound, result.line.statement
    if bound is None or statement is None or not result.unknown_taken or not isinstance(statement.body, Keep):
        return ""
    assert isinstance(bound.body, BoundFilter)
    names = [column.name for column in columns_named(bound.body.condition)]
    if not _negates(bound.body.condition) or not 0 < len(names) <= _MOST_NAMED:
        return ""
    absent = tuple(t.IsNull(t.Name(name)) for name in names)
    return f"keep {expression_text(t.Or((*absent, statement.body.condition)))}"


def files_without(result: LineResult) -> Iterator[Hint]:
    """Name the files of a source that do not have a column the line looks at."""
    if result.line.bound is None:
        return
    table = result.before.table
    names = {table.columns[number].name for number in columns_read(result.line.bound.body)}
    for file, name in islice(_lacking(table.info.files, names), _MOST_FILES):
        yield Hint(f"{file} has no {name}: it has no value in all the rows of that file")


def _lacking(files: Iterable[FileInfo], names: Collection[str]) -> Iterator[tuple[str, str]]:
    return ((file.label, name) for file in files for name in file.differences.lacks if name in names)


def _negates(condition: b.BoundCondition | None) -> bool:
    match condition:
        case b.Piece(test, negated):
            return negated or (isinstance(test, b.Compare) and test.operator == "<>")
        case b.Inverse():
            return True
        case b.AllOf(items) | b.AnyOf(items):
            return any(map(_negates, items))
        case _:
            return False

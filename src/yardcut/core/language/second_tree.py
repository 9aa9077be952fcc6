"""What the language says of a second table: which one it is, and that a value is looked up in it."""

from __future__ import annotations

from enum import StrEnum

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax_trees import Expression, Name, Node
from yardcut.core.quick_dataclasses import dataclass


class Where(StrEnum):
    """Where a second table comes from."""

    FILE = "file"
    CUT = "cut"
    SOURCE = "source"


@dataclass(frozen=True, slots=True)
class Second(Node):
    """A second table: a file by its path, an earlier cut of the list, or a further source by its name."""

    where: Where
    name: str


@dataclass(frozen=True, slots=True)
class InSecond(Expression):
    """``value IN "file"``: some values of a row stand together in a row of a second table.

    ``columns`` are those that are looked into there; none means those of the same names.
    """

    values: tuple[Expression, ...]
    second: Second
    columns: tuple[Name | t.ColumnNumber, ...] = ()
    negated: bool = False
    ignoring_case: bool = False

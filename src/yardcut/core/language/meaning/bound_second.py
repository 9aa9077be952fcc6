"""Values that are looked up in a second table, bound: what they are becomes known when their line runs."""

from __future__ import annotations

from dataclasses import field
from typing import Any

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

BoundValue = Any
"""A bound value, which may be one of these; the union of all of them (``bound.BoundValue``) is made of these too."""


class OtherRows:
    """The rows of a second table: an open one, or what the bound ``lines`` of a cut leave.

    ``mark`` tells its content from any other; ``said`` is how a sentence names it, ``name`` its own; ``is_list`` says
    that it has one column of texts, which are read as the kind of what is looked for among them. It is no dataclass,
    so that who looks for columns of the table at work in a plan does not look in here.
    """

    __slots__ = ("is_list", "lines", "mark", "name", "notes", "said", "table")

    def __init__(
        self, mark: str, said: str, table: Any = None, lines: tuple[Any, ...] = (), notes: tuple[str, ...] = (),
        *, name: str = "", is_list: bool = False,
    ) -> None:  # fmt: skip
        self.mark, self.said, self.table, self.lines, self.notes = mark, said, table, lines, notes
        self.name, self.is_list = name, is_list

    def __repr__(self) -> str:
        return f"OtherRows({self.mark!r})"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, OtherRows) and self.mark == other.mark

    def __hash__(self) -> int:
        return hash(self.mark)


class TheirValue:
    """A value over the rows of a second table. It is no dataclass, as :class:`OtherRows` is none."""

    __slots__ = ("name", "value")

    def __init__(self, value: BoundValue, name: str = "") -> None:
        self.value, self.name = value, name

    @property
    def kind(self) -> Kind:
        """The kind it is of."""
        kind: Kind = self.value.kind
        return kind

    def __repr__(self) -> str:
        return f"TheirValue({self.value!r})"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, TheirValue) and self.value == other.value

    def __hash__(self) -> int:
        return hash(self.value)


@dataclass(frozen=True, slots=True)
class Matching:
    """How rows find those of a second table: ``keys`` equal ``their_keys``, and the last not after ``moment``.

    ``every`` says that a row stands once for each row it finds; else several are ``first`` or an error.
    """

    other: OtherRows
    keys: tuple[BoundValue, ...]
    their_keys: tuple[TheirValue, ...]
    moment: BoundValue | None = None
    their_moment: TheirValue | None = None
    first: bool = False
    every: bool = False
    ignoring_case: bool = False
    text: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class Brought:
    """The value of a second table's column in the row that is found there; none where none is.

    ``line`` tells equal ones of different lines apart. It is replaced when its line runs.
    """

    matching: Matching
    value: TheirValue
    kind: Kind
    line: int


@dataclass(frozen=True, slots=True)
class Listed:
    """Whether the values of a row stand in a second table; unknown where one of them is missing.

    ``line`` tells equal ones of different lines apart. It is replaced when its line runs.
    """

    matching: Matching
    line: int
    kind: Kind = Kind.BOOLEAN

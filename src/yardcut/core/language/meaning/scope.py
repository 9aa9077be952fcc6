"""Which columns a line can name, and finding the one that is meant."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field, replace
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.mends_of_slips import fix_in_place
from yardcut.core.language.meaning.bound import ColumnValue, Made, ShownColumn
from yardcut.core.language.meaning.bound_second import OtherRows
from yardcut.core.language.second_tree import Second
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

if TYPE_CHECKING:
    from yardcut.core.language.meaning.dials_put_in import DialSetting


@dataclass(frozen=True)
class Scope:
    """The columns a line can name.

    ``shown`` are those the line above leaves, in their order; ``known`` all columns under their own names, in the order
    of their numbers: the source's, and behind them those that lines made. ``dials`` are those of the list.
    """

    shown: tuple[ShownColumn, ...]
    known: tuple[ShownColumn, ...]
    dials: tuple[DialSetting, ...] = ()
    leads_to_source: bool = True
    """Whether the rows are rows of the source, and have numbers there."""
    further: SecondTables | None = field(default=None, compare=False, repr=False)
    """The second tables that can be named."""
    open: bool = False
    """Whether there are more, which only the rows tell: lines below are bound when they are known."""
    unused_order: str = field(default="", compare=False)
    """The keys, as they are written, of an order above that no line has made use of yet."""

    @classmethod
    def of_source(cls, columns: Sequence[tuple[str, Kind]]) -> Scope:
        """Return the scope before the first line, of a source's columns given by name and kind."""
        shown = tuple(
            ShownColumn(name, ColumnValue(number, kind, name), number + 1)
            for number, (name, kind) in enumerate(columns)
        )
        return cls(shown, shown)

    def beside(self, other: Scope) -> Scope:
        """Return these columns in the list of another scope: with its dials and second tables."""
        return replace(self, dials=other.dials, further=other.further)

    def names(self) -> list[str]:
        """Return all names a line can use, the shown ones first."""
        shown = [column.name for column in self.shown]
        seen = set(shown)
        return shown + [column.name for column in self.known if column.name not in seen]

    @cached_property
    def _by_name(self) -> dict[str, ShownColumn]:
        return {column.name: column for column in reversed((*self.shown, *self.known))}

    def find(self, name: str) -> ShownColumn | None:
        """Return the column of a name: the shown one first, else a hidden one by its old name."""
        return self._by_name.get(name)

    def with_made(self, name: str, value: Made) -> Scope:
        """Return the scope with one more column; it takes the place of a column of that name, where there is one."""
        place = next((place for place, column in enumerate(self.known) if column.name == name), len(self.known))
        made = ShownColumn(name, value, place + 1)
        known = (*self.known[:place], made, *self.known[place + 1 :])
        at = next((place for place, column in enumerate(self.shown) if column.name == name), len(self.shown))
        return replace(self, shown=(*self.shown[:at], made, *self.shown[at + 1 :]), known=known)


@dataclass(frozen=True, slots=True)
class SecondTable:
    """A second table: its rows, and the columns that can be named."""

    rows: OtherRows
    scope: Scope


class SecondTables(Protocol):
    """Gives second tables."""

    def table(self, second: Second) -> SecondTable:
        """Return a second table. Raises ``ListError`` where there is none, or it cannot be read."""

    def files_like(self, begun: str) -> list[str]:
        """Return the paths that a text is the beginning of, as a line names them."""

    def source_names(self) -> list[str]:
        """Return the names of the further sources."""

    def cut_names(self) -> list[str]:
        """Return the names of the cuts above."""

    def list_of_values(self, second: Second, name: str) -> SecondTable | None:
        """Return a file of one value a line; ``None`` where it is no such file.

        ``name`` is that of the column whose values are looked for: a first line that is just that is none of them.
        """


@dataclass(slots=True)
class Lookup:
    """Finds columns for one statement, gathering hints on the way."""

    scope: Scope
    text: str
    hints: list[str] = field(default_factory=list)

    def column(self, node: t.Name | t.ColumnNumber | t.Dial) -> ShownColumn:
        """Return the column a name, a number or a dial means. Raises ``ListError`` with the nearest names."""
        if isinstance(node, t.Dial):
            from yardcut.core.language.meaning.dials_put_in import column_held

            node = column_held(node, self.scope.dials)
        if isinstance(node, t.ColumnNumber):
            return self._numbered(node)
        found = self.scope.find(node.name)
        if found is not None:
            return found
        if not node.quoted:
            alike = [name for name in self.scope.names() if name.casefold() == node.name.casefold()]
            if len(alike) == 1:
                self.hints.append(f"{node.name} is taken to mean {alike[0]}")
                found = self.scope.find(alike[0])
                assert found is not None
                return found
            if alike:
                raise self._unknown(node, f"{node.name} fits {' and '.join(alike)}", alike)
        from yardcut.core.near import nearest

        near = nearest(node.name, self.scope.names())
        raise self._unknown(node, f"there is no column {node.name}", near)

    def _numbered(self, node: t.ColumnNumber) -> ShownColumn:
        columns = self.scope.known
        index = node.number - 1 if node.number > 0 else len(columns) + node.number
        if not 0 <= index < len(columns):
            raise ListError(
                f"there is no column #{node.number}: there are {len(columns)}",
                start=node.span[0], end=node.span[1],
            )  # fmt: skip
        return columns[index]

    def _unknown(self, node: t.Name, message: str, near: list[str]) -> ListError:
        start, end = node.span
        mend = None
        if near:
            says = "did you mean " + (near[0] if len(near) == 1 else f"{', '.join(near[:-1])} or {near[-1]}") + "?"
            mend = Mend(says, fix_in_place(self.text, start, end, name_text(near[0])))
        return ListError(message, start=start, end=end, mend=mend)

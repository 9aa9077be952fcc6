"""Which second tables a line can name, and what is known of one when a line is bound to it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Protocol

from yardcut.core.errors import ListError
from yardcut.core.language.meaning.bound_second import OtherRows
from yardcut.core.language.second_tree import Second

if TYPE_CHECKING:
    from yardcut.core.language.meaning.scope import Scope


@dataclass(frozen=True, slots=True)
class SecondTable:
    """A second table: its rows, and the columns that can be named. ``is_list`` says that it is a plain list of values.

    A plain list has one column of texts, which are read as the kind of what is looked for among them.
    """

    rows: OtherRows
    scope: Scope
    is_list: bool = False


class SecondTables(Protocol):
    """Gives second tables."""

    def table(self, second: Second) -> SecondTable:
        """Return a second table. Raises ``ListError`` where there is none, or it cannot be read."""

    def list_of_values(self, second: Second, name: str) -> SecondTable | None:
        """Return a file of one value a line; ``None`` where it is no such file.

        ``name`` is that of the column whose values are looked for: a first line that is just that is none of them.
        """


class SecondSourceError(ListError):
    """A second table cannot be read."""

    exit_code: ClassVar[int] = 1


class NotReadYetError(ListError):
    """A second table is not read yet, and whoever binds the line does not wait for it."""

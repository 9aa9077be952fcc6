"""What is fixed before a line is bound, so that running it again gives the same."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import ListError
from yardcut.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    from yardcut.core.language.meaning.scope import Scope

Earlier = Callable[[str], "tuple[str, tuple[Any, ...], Scope]"]
"""Gives an earlier cut by its name: what tells it from others, its bound lines, and the columns they leave."""


def no_earlier(name: str) -> tuple[str, tuple[Any, ...], Scope]:
    """Stand in where there is no other cut. Raises ``ListError``."""
    raise ListError(f'there is no earlier cut "{name}" in the list')


@dataclass(frozen=True, slots=True)
class Fixed:
    """The day of the run (days since 1970-01-01), and where the line stands.

    ``line`` tells it from all other lines of the list (-1: it stands in none yet); ``is_first`` in its cut.
    """

    today: int
    line: int = -1
    is_first: bool = False
    earlier: Earlier = field(default=no_earlier, compare=False, repr=False)

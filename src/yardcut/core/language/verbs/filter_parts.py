"""The trees of ``keep`` and ``drop``."""

from __future__ import annotations

from yardcut.core.language import syntax_trees as t
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Keep(t.Body):
    """Leaves the rows for which the condition is TRUE."""

    condition: t.Expression

    @property
    def word(self) -> str:
        """The verb."""
        return "keep"


@dataclass(frozen=True, slots=True)
class Drop(t.Body):
    """Removes the rows for which the condition is TRUE."""

    condition: t.Expression

    @property
    def word(self) -> str:
        """The verb."""
        return "drop"

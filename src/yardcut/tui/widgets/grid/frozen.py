"""Columns that stand still at the left while the others go by: a matter of looking, no line of the cut."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

from yardcut.tui.widgets.grid.grid_source import GridColumn


class Frozen:
    """The ids of such columns, in the order they were made so."""

    def __init__(self) -> None:
        self._ids: list[Hashable] = []

    def has(self, column_id: Hashable) -> bool:
        """Tell whether a column stands still."""
        return column_id in self._ids

    def turn(self, column_id: Hashable) -> bool:
        """Let a column stand still, or go again; tells whether it stands still now."""
        if self.has(column_id):
            self._ids.remove(column_id)
        else:
            self._ids.append(column_id)
        return self.has(column_id)

    def places(self, columns: Sequence[GridColumn]) -> list[int]:
        """Return where such columns stand among others."""
        if not self._ids:
            return []
        at = {column.id: place for place, column in enumerate(columns)}
        return [at[each] for each in self._ids if each in at]

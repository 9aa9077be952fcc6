"""What the parts of the rack ask of its page."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from textual.widget import Widget

    from yardcut.core.language.helping.column_lists import ColumnList
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.tui.rack.rack_list import RackList
    from yardcut.tui.workers import Jobs


class RackPage(Protocol):
    """The page: its list, what the cut's list wants, and what it says."""

    wanted: ColumnList
    list: RackList

    @property
    def jobs(self) -> Jobs:
        """Work of its own."""

    @property
    def is_sorted(self) -> bool:
        """True while the rows stand in another order than the cut's."""

    def columns(self) -> Sequence[ShownColumn]:
        """Return all columns, under the names they have above the list's line."""

    def numbers_on_screen(self) -> Sequence[int]:
        """Return the numbers of the columns on screen."""

    def say(self, text: str, style: str = ...) -> None:
        """Say something below the rows."""

    def show_title(self) -> None:
        """Say how many columns are in the cut, and which rows the values are of."""

    def figures_came(self) -> None:
        """Find anew what depends on figures, and sort by them."""

    def values_came(self) -> None:
        """Find anew what depends on values."""

    def set_focus(self, widget: Widget | None) -> None:
        """Give a widget the focus."""

    def set_timer(self, delay: float, callback: Callable[[], None]) -> Any:
        """Call something after some seconds."""

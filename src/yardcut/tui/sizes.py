"""Which size a terminal has, as classes the styles know: what there is no room for is left away."""

from __future__ import annotations

from typing import Any

from textual.geometry import Size
from textual.screen import Screen
from textual.widget import Widget

LEAST = Size(20, 5)
_WIDE_CELLS, _NARROW_CELLS, _SLIM_CELLS, _LOW_LINES = 200, 110, 44, 16


def is_too_small(size: Size) -> bool:
    """Tell whether nothing of use can be drawn."""
    return size.width < LEAST.width or size.height < LEAST.height


class Fitting:
    """Gives one screen the classes of its size.

    While there is room for nothing, nothing has the focus; it comes back where it was.
    """

    def __init__(self, screen: Screen[Any]) -> None:
        self._screen = screen
        self._is_tiny = False
        self._focused: Widget | None = None

    def show(self) -> None:
        """Show the size of now; only a change may cost the restyling of every widget."""
        screen, size = self._screen, self._screen.size
        was_tiny, self._is_tiny = self._is_tiny, is_too_small(size)
        if self._is_tiny and not was_tiny:
            self._focused = screen.focused
            screen.set_focus(None)
        classes = {
            "wide": size.width >= _WIDE_CELLS,
            "narrow": size.width < _NARROW_CELLS,
            "slim": size.width < _SLIM_CELLS,
            "low": size.height < _LOW_LINES,
            "tiny": self._is_tiny,
        }
        for name, on in classes.items():
            if screen.has_class(name) is not on:
                screen.set_class(on, name)
        if was_tiny and not self._is_tiny:
            screen.call_after_refresh(screen.set_focus, self._focused)

"""Which size a terminal has, as classes the styles know: what there is no room for is left away."""

from __future__ import annotations

from typing import Any
from weakref import WeakKeyDictionary

from textual.geometry import Size
from textual.screen import Screen
from textual.widget import Widget

LEAST = Size(20, 5)
_FOCUSED: WeakKeyDictionary[Screen[Any], Widget | None] = WeakKeyDictionary()
"""What had the focus on a screen that is too small now."""
_NARROW_CELLS, _SLIM_CELLS, _LOW_LINES = 110, 44, 16


def is_too_small(size: Size) -> bool:
    """Tell whether nothing of use can be drawn."""
    return size.width < LEAST.width or size.height < LEAST.height


def show_size(screen: Screen[Any]) -> None:
    """Give a screen the classes of its size; only a change may cost the restyling of every widget.

    While there is room for nothing, nothing has the focus; it comes back where it was.
    """
    size = screen.size
    if is_too_small(size) and not screen.has_class("tiny"):
        _FOCUSED[screen] = screen.focused
        screen.set_focus(None)
    classes = {
        "narrow": size.width < _NARROW_CELLS,
        "slim": size.width < _SLIM_CELLS,
        "low": size.height < _LOW_LINES,
        "tiny": is_too_small(size),
    }
    for name, on in classes.items():
        if screen.has_class(name) is not on:
            screen.set_class(on, name)
    if not is_too_small(size) and screen in _FOCUSED:
        screen.call_after_refresh(screen.set_focus, _FOCUSED.pop(screen))

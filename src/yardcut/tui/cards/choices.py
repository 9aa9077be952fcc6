"""Moving about in a list of choices, or in a text that scrolls."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

from textual.containers import VerticalScroll
from textual.widgets import OptionList

from yardcut.tui.keys.dispatcher import Calls

_PAGE_ROWS = 12


def choice_calls(where: OptionList | VerticalScroll) -> Calls:
    """Return what carries out the actions of moving about among choices."""
    if isinstance(where, VerticalScroll):
        return scroll_calls("choice", where)
    return {
        "choice-up": lambda: _step(where, -1),
        "choice-down": lambda: _step(where, 1),
        "choice-page-up": lambda: _turn(where, -1),
        "choice-page-down": lambda: _turn(where, 1),
        "choice-first": where.action_first,
        "choice-last": where.action_last,
    }


def place_again(before: Sequence[Hashable], place: int, now: Sequence[Hashable]) -> int:
    """Return where the choice that stood at a place stands in the list of now; where it is gone, the place itself."""
    if place < len(before) and before[place] in now:
        return now.index(before[place])
    return max(0, min(place, len(now) - 1))


def _step(where: OptionList, by: int) -> None:
    """Mark the next choice, or the one before; the list ends where it ends. Textual's own way goes round."""
    if where.option_count:
        where.highlighted = max(
            0, min((-1 if where.highlighted is None else where.highlighted) + by, where.option_count - 1)
        )


def _turn(where: OptionList, pages: int) -> None:
    """Mark the choice a page away. Textual's own way fails where there is no room for a single line."""
    if where.option_count:
        place = (where.highlighted or 0) + pages * max(1, where.size.height - 1)
        where.highlighted = max(0, min(place, where.option_count - 1))


def scroll_calls(prefix: str, where: VerticalScroll) -> Calls:
    """Return what carries out the actions of scrolling a text, whose ids begin with a word."""
    return {
        f"{prefix}-up": lambda: where.scroll_relative(y=-1, animate=False),
        f"{prefix}-down": lambda: where.scroll_relative(y=1, animate=False),
        f"{prefix}-page-up": lambda: where.scroll_relative(y=-_PAGE_ROWS, animate=False),
        f"{prefix}-page-down": lambda: where.scroll_relative(y=_PAGE_ROWS, animate=False),
        f"{prefix}-first": lambda: where.scroll_home(animate=False),
        f"{prefix}-last": lambda: where.scroll_end(animate=False),
    }

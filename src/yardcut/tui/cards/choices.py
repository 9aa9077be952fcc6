"""Moving about in a list of choices, or in a text that scrolls."""

from __future__ import annotations

from textual.containers import VerticalScroll
from textual.widgets import OptionList

from yardcut.tui.keys.dispatcher import Calls


def choice_calls(where: OptionList | VerticalScroll) -> Calls:
    """Return what carries out the actions of moving about."""
    if isinstance(where, OptionList):
        return {
            "choice-up": where.action_cursor_up,
            "choice-down": where.action_cursor_down,
            "choice-page-up": where.action_page_up,
            "choice-page-down": where.action_page_down,
            "choice-first": where.action_first,
            "choice-last": where.action_last,
        }
    return {
        "choice-up": lambda: where.scroll_relative(y=-1, animate=False),
        "choice-down": lambda: where.scroll_relative(y=1, animate=False),
        "choice-page-up": lambda: where.scroll_relative(y=-12, animate=False),
        "choice-page-down": lambda: where.scroll_relative(y=12, animate=False),
        "choice-first": lambda: where.scroll_home(animate=False),
        "choice-last": lambda: where.scroll_end(animate=False),
    }

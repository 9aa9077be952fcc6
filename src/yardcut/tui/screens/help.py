"""The page of all keys by task, with the forms of the language; found by words."""

from __future__ import annotations

from typing import ClassVar

from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import Input, Static

from yardcut.core.language.forms import OPERATOR_FORMS
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.verbs.table import VERBS
from yardcut.tui.keymap import KEYS, key_text

_WHERE = {"anywhere": "", "grid": "in the table", "list": "on the list", "prompt": "while writing", "ask": ""}
_TASKS = ("find your way", "look", "cut", "change the list", "keep the result", "answer a question")


def help_entries() -> list[tuple[str, str, str]]:
    """Return (section, left, right) for every key and every form."""
    found = []
    for task in _TASKS:
        for key in KEYS:
            if key.task == task:
                where = _WHERE[key.focus]
                keys = " or ".join(map(key_text, key.keys))
                found.append((task, keys, key.help + (f"  ({where})" if where else "")))
    for form in VERBS.values():
        found.append(("the lines of a cut", form.takes, f"{form.does}: {form.example}"))
    for verb in VERBS.values():
        found += [(f"{verb.word}s", form, f"{verb.word} {name}") for name, form in verb.forms.items()]
    found += [("functions", each.form, f"{each.does}: {each.example}") for each in FUNCTIONS.values()]
    found += [("conditions", text, "") for text in OPERATOR_FORMS.values()]
    found.append(
        ("missing values", "IS NULL, IS NOT NULL", "a comparison with a missing value is unknown: keep lets it go")
    )
    found.append(
        ("missing values", "NULLS FIRST", "missing values stand last in both directions unless a key says first")
    )
    found.append(
        ("ties", "with ties", "a top or bottom takes the rows equal to the last one too; else the earlier win")
    )
    return found


class HelpScreen(ModalScreen[None]):
    """Lists the keys; what is typed narrows the list."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,ctrl+g,f3", "put_away", "put away", show=False),
        Binding("up", "scroll(-1)", "up", show=False, priority=True),
        Binding("down", "scroll(1)", "down", show=False, priority=True),
        Binding("pageup", "scroll(-15)", "up", show=False, priority=True),
        Binding("pagedown", "scroll(15)", "down", show=False, priority=True),
    ]

    def __init__(self, search: str = "") -> None:
        super().__init__()
        self._search = search

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with Vertical(classes="card", id="help-card") as card:
            card.border_title = "keys and forms"
            yield Input(self._search, placeholder="a word: ties, percent, offcut …", select_on_focus=False)
            with VerticalScroll(can_focus=False):
                yield Static(id="help-text")
            yield Static(Content("↑ ↓ scroll   Esc put away"), classes="keys")

    def on_mount(self) -> None:
        """Show everything."""
        self.query_one(Input).focus()
        self._draw()

    @on(Input.Changed)
    def _draw(self) -> None:
        words = self.query_one(Input).value.casefold().split()
        parts: list[str | tuple[str, str]] = []
        section = ""
        for task, left, right in help_entries():
            said = f"{task} {left} {right}".casefold()
            if not all(word in said for word in words):
                continue
            if task != section:
                parts.append((f"{'' if not section else chr(10)}{task}\n", "bold $accent"))
                section = task
            parts.append((f"  {left:<24}", "bold"))
            parts.append((f" {right}\n", "$dim"))
        text = Content.assemble(*parts) if parts else Content("nothing is said about that")
        self.query_one("#help-text", Static).update(text)

    def action_scroll(self, rows: int) -> None:
        """Scroll the page."""
        self.query_one(VerticalScroll).scroll_relative(y=rows, animate=False)

    def action_put_away(self) -> None:
        """Close the page."""
        self.dismiss(None)

"""The page of all keys by task, with the forms of the language; found by words."""

from __future__ import annotations

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import Input, Static

from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.helping.forms import OPERATOR_FORMS
from yardcut.core.language.syntax.source_lines import FORMS as SOURCE_FORMS
from yardcut.core.language.verbs.table import VERBS
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import scroll_calls
from yardcut.tui.cards.looking.help_words import TASKS, WORDS
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.names import key_text


def help_entries() -> list[tuple[str, str, str]]:
    """Return (section, left, right) for every key and every form."""
    found = []
    for task in TASKS:
        for key in keymap().actions:
            if key.task == task:
                where = "" if key.focus in (Focus.EVERYWHERE, Focus.ANYWHERE) else _lower(key.focus.value)
                keys = " or ".join(map(key_text, key.keys))
                found.append((task, keys, key.help + (f"  ({where})" if where else "")))
    found += WORDS
    for verb in VERBS.values():
        found.append(("the lines of a cut", verb.form(), f"{verb.does}: {verb.example}"))
        found += [(f"{verb.word}s", form, f"{verb.word} {name}") for name, form in verb.forms().items()]
    found += [("functions", each.form, f"{each.does}: {each.example}") for each in FUNCTIONS.values()]
    found += [("conditions", text, "") for text in OPERATOR_FORMS.values()]
    found += [("how the source is read", form, f"{word}, below the source") for word, form in SOURCE_FORMS.items()]
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


class HelpCard(Card[None]):
    """Lists the keys; what is typed narrows the list."""

    FOCUS = Focus.HELP

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
            yield self.keys_line()

    def on_mount(self) -> None:
        """Show everything."""
        self.set_focus(self.query_one(Input))
        self._draw()

    @on(Input.Changed)
    def _draw(self) -> None:
        words = self.query_one(Input).value.casefold().split()
        parts: list[str | tuple[str, str]] = []
        section = ""
        found = [
            (task, left, right)
            for task, left, right in help_entries()
            if all(word in f"{task} {left} {right}".casefold() for word in words)
        ]
        if words:  # what begins with the word is likely what is meant: the form of a verb
            found.sort(key=lambda entry: not entry[1].casefold().startswith(words[0]))
        for task, left, right in found:
            if task != section:
                parts.append((f"{'' if not section else chr(10)}{task}\n", "bold $accent"))
                section = task
            parts.append((f"  {left:<24}", "bold"))
            parts.append((f" {right}\n", "$dim"))
        text = Content.assemble(*parts) if parts else Content("nothing is said about that")
        self.query_one("#help-text", Static).update(text)

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"help-away": self.put_away, **scroll_calls("help", self.query_one(VerticalScroll))}


def _lower(text: str) -> str:
    return text[:1].lower() + text[1:]

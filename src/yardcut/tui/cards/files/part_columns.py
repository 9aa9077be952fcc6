"""The columns whose values each get a file of their own: found by typing, several ticked one after the other."""

from __future__ import annotations

from collections.abc import Sequence

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit

_NAME_CELLS = 40


class PartColumnsCard(Card[tuple[str, ...] | None]):
    """Returns names of columns in the order they were ticked; none for one file of all.

    ``columns`` are (name, kind) of those there are, ``ticked`` the names that part the slice already.
    """

    FOCUS = Focus.PART_COLUMNS

    def __init__(self, columns: Sequence[tuple[str, str]], ticked: Sequence[str]) -> None:
        super().__init__()
        self._columns, self._ticked = columns, list(ticked)
        self._shown: list[tuple[str, str]] = []
        self._shown_for = ""
        self._list, self._said = OptionList(), Static("", classes="said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="part-columns-card") as card:
            card.border_title = "one file per …"
            yield Input(placeholder="part of a column's name", select_on_focus=False)
            yield self._list
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show all columns."""
        self.set_focus(self.query_one(Input))
        self._show()

    @on(Input.Changed)
    def _show(self) -> None:
        typed = self._shown_for = self.query_one(Input).value
        words = typed.casefold().split()
        self._shown = [each for each in self._columns if all(word in each[0].casefold() for word in words)]
        self._draw(0)

    def _draw(self, place: int) -> None:
        self._list.clear_options()
        self._list.add_options(map(self._line, self._shown))
        if self._shown:
            self._list.highlighted = min(place, len(self._shown) - 1)
        said = f"one file per {', '.join(self._ticked)}" if self._ticked else "one file for all"
        self._said.update(Content.styled(clean(said), "$would"))

    def _line(self, column: tuple[str, str]) -> Content:
        name, kind = column
        number = f"{self._ticked.index(name) + 1} ✓ " if name in self._ticked else "    "
        return Content.assemble((number, "$accent"), (fit(clean(name), _NAME_CELLS), "bold"), (kind, "$dim"))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "parts-away": self.put_away,
            "parts-tick": self._tick,
            "parts-take": self._take,
            **choice_calls(self._list),
        }

    @property
    def _marked(self) -> str | None:
        if self.query_one(Input).value != self._shown_for:  # the news of the last letters is still on its way
            self._show()
        place = self._list.highlighted
        return None if place is None or place >= len(self._shown) else self._shown[place][0]

    def _tick(self) -> None:
        """Tick the marked column, or take the tick away."""
        name = self._marked
        if name is None:
            return
        if name in self._ticked:
            self._ticked.remove(name)
        else:
            self._ticked.append(name)
        self._draw(self._list.highlighted or 0)

    def _take(self) -> None:
        """Take what is ticked; where a name was typed and nothing ticked, the marked one."""
        name = self._marked
        if not self._ticked and self._shown_for.strip() and name is not None:
            self._ticked.append(name)
        self.dismiss(tuple(self._ticked))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Tick what was clicked."""
        self._tick()

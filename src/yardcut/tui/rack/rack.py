"""The rack: a page of its own. It shows what the list says, and every change is one of the list at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, Static

from yardcut.core.language.helping.column_lists import ColumnList
from yardcut.tui.cards.card import Card
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.rack.changing import Changing
from yardcut.tui.rack.knowing import Knowing
from yardcut.tui.rack.rack_lines import Seen, head
from yardcut.tui.rack.rack_list import RackList
from yardcut.tui.rack.rack_rows import SORTS, rack_rows
from yardcut.tui.rack.renaming import Naming
from yardcut.tui.rack.searching import Searching
from yardcut.tui.text import clean

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.figured_rows import Rows

MAKE = "make "
"""What the rack returns to have a column made."""


class RackCard(Card[str | None]):
    """Returns a line to be written, or nothing. ``edit`` changes what the list says; it may raise ``ListError``.

    What was found, what is known, what is changed and what is renamed are parts of their own.
    """

    FOCUS = Focus.RACK

    def __init__(
        self, wanted: ColumnList, about: int | None, looks: Looks, edit: Callable[[ColumnList], None],
        step: Callable[[bool], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.wanted = wanted
        self._step = step
        self._about = about
        self._columns_of: ColumnList | None = None
        self._all_columns: tuple[ShownColumn, ...] = ()
        self._sort = SORTS[0]
        self._page = Vertical(classes="card", id="rack-card")
        self._page.border_title = "rack"
        self._head, self._said = Static(id="rack-head"), Static(id="rack-said")
        self.list = RackList(self._seen)
        self.knowing = Knowing(self, looks)
        self.searching = Searching(self, self.knowing)
        self.changing = Changing(self, self.searching, edit)
        self.naming = Naming(self, self.searching, self.changing)

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with self._page:
            yield self.searching.field
            yield self.searching.line
            yield self._head
            yield self.list
            yield self.naming.field
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show the columns; figures and values come behind."""
        self.set_focus(self.list)
        self._show_rows(self._about)

    def on_resize(self) -> None:
        """Leave away what there is no room for."""
        super().on_resize()
        self.after_refresh(lambda: self._head.update(head(self.list.size.width)))

    # what it shows

    def show(self, wanted: ColumnList, rows: Rows | None, position: int) -> None:
        """Show what the list says now, and values of the rows that pass now; ``None`` while they are being counted."""
        self._say_so_far()
        about = self.list.row.number if self.list.row is not None else self._about
        self.wanted = wanted
        self.knowing.meet(rows, self.columns(), position)
        if self.is_mounted:
            self._show_rows(about)

    def columns(self) -> Sequence[ShownColumn]:
        """Return all columns, under the names they have above the list's line."""
        if self._columns_of is not self.wanted:
            self._columns_of = self.wanted
            self._all_columns = tuple(row.column for row in rack_rows(self.wanted, SORTS[0], {}))
        return self._all_columns

    def numbers_on_screen(self) -> list[int]:
        """Return the numbers of the columns on screen."""
        return [self.list.rows[place].number for place in self.list.places_on_screen()]

    def _show_rows(self, about: int | None = None) -> None:
        rows = rack_rows(self.wanted, self._sort, self.knowing.missing())
        self.list.show(rows, next((place for place, row in enumerate(rows) if row.number == about), self.list.cursor))
        self.show_title()
        self.searching.show()

    def figures_came(self) -> None:
        """Find anew what depends on figures, and sort by them."""
        if self.searching.waits_for_figures:
            self.searching.find()
        if self._sort == "missing":
            self._show_rows(self.list.row.number if self.list.row else None)

    def values_came(self) -> None:
        """Find anew what depends on values."""
        self.searching.find()

    def show_title(self) -> None:
        """Say how many columns are in the cut, how they are sorted here, and which rows the values are of."""
        chosen, rest = len(self.wanted.chosen), len(self.wanted.rest)
        sort = f" · sorted by {self._sort}" if self.is_sorted else ""
        said = f"rack: {chosen:,} of {chosen + rest:,} columns in the cut{sort} · {self.knowing.label}"
        self._page.border_title = said

    def _seen(self, place: int) -> Seen:
        number = self.list.rows[place].number
        return Seen(
            number in self.searching.lit, number == self.changing.held, place == self.list.cursor,
            self.knowing.summaries.get(number), self.knowing.values.get(number), self.naming.would.get(number, ""),
        )  # fmt: skip

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the rows."""
        self._said.update(Content.styled(clean(text), style))

    # what the fields and the mouse tell

    @on(Input.Changed, "#rack-find")
    def _typed(self) -> None:
        self.searching.typed()

    @on(Input.Changed, "#rack-name")
    def _named(self) -> None:
        self.naming.typed()

    @on(RackList.Chosen)
    def _clicked(self) -> None:
        self.changing.toggle()

    # keys

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        self.searching.typed()  # whatever the key does is about what is typed now
        rack = self.list
        return {
            "rack-away": self._away,
            "rack-enter": self._enter,
            "rack-up": lambda: rack.move(-1),
            "rack-down": self._down,
            "rack-page-up": lambda: rack.page(-1),
            "rack-page-down": lambda: rack.page(1),
            "rack-first": lambda: rack.go_to(0),
            "rack-last": lambda: rack.go_to(len(rack.rows) - 1),
            "rack-sort": self._turn_sort,
            "rack-make": lambda: self.dismiss(MAKE),
            "rack-undo": lambda: self._step(False),
            "rack-redo": lambda: self._step(True),
            **self.searching.calls,
            **self.knowing.calls,
            **self.changing.calls,
            **self.naming.calls,
        }

    def _away(self) -> None:
        """Go one step back: out of a field, of a column that is held, of what was found; else put the rack away."""
        if self.naming.stop() or self.changing.let_go():
            return
        if self.takes_text:
            self.set_focus(self.list)
        elif not self.searching.clear():
            self.dismiss(None)

    def _enter(self) -> None:
        if self.naming.enter():
            return
        if self.takes_text:
            self.set_focus(self.list)
            self.searching.show()
        else:
            self.changing.toggle()

    def _down(self) -> None:
        if self.takes_text and not self.naming.is_on:
            self.set_focus(self.list)
        else:
            self.list.move(1)

    # order of the rows

    @property
    def is_sorted(self) -> bool:
        """True while the rows stand in another order than the cut's."""
        return self._sort != SORTS[0]

    def _turn_sort(self) -> None:
        self._sort = SORTS[(SORTS.index(self._sort) + 1) % len(SORTS)]
        self._show_rows(self.list.row.number if self.list.row else None)
        self.say(f"shown by {self._sort}; the cut keeps its order" if self.is_sorted else "the cut's order")

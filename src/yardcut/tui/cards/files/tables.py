"""Choosing what to open of a file that holds several tables: one, all, or the answer of a query."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.core.progress import CancelToken
from yardcut.core.sources.form.table_look import TableLook
from yardcut.core.sources.spec import QueryLine, SubLine, TableLine
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, clean_lines, fit, plural
from yardcut.tui.workers import Job

_NAME_CELLS = 32
_LEAST_CELLS, _CELL_CELLS = 20, 14


class TableChoice(Card[SubLine | None]):
    """Returns the sub-line that says what to read."""

    FOCUS = Focus.TABLES

    def __init__(
        self,
        label: str,
        tables: list[tuple[str, str]],
        said: str,
        look: Callable[[str, CancelToken], TableLook],
    ) -> None:
        super().__init__()
        self._look = look
        self._said = said
        self._label = label
        self._tables = tables

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card") as card:
            card.border_title = Content(f"{clean(self._label)} holds {len(self._tables)} tables")
            lines = [
                Content.assemble((fit(clean(name), _NAME_CELLS), "bold"), (f"  {said}", "$dim"))
                for name, said in self._tables
            ]
            if self._said:
                yield Static(Content.styled(clean_lines(self._said), "$warning"))
            yield OptionList(*lines, Content("all of them, as one stack"))
            with VerticalScroll(id="table-look"):
                yield Static(id="table-look-said")
            yield Static(Content("or a query, where it is a database"), classes="keys")
            yield Input(placeholder="select ticket, grade from packs where …", id="query")
        yield self.footer()

    def on_mount(self) -> None:
        """Begin with the tables."""
        self.set_focus(self.query_one(OptionList))

    @on(OptionList.OptionHighlighted)
    def _marked(self, event: OptionList.OptionHighlighted) -> None:
        place = event.option_index
        if place >= len(self._tables):
            self.jobs.stop(Job.LOOK_INSIDE)
            self._show("each row of all tables, lined up by the names of their columns")
            return
        name = self._tables[place][0]

        self._show("…")
        self.jobs.start(
            Job.LOOK_INSIDE,
            lambda token, progress: self._look(name, token),
            self._show,
            lambda error: self._show(str(error)),
        )

    def _show(self, found: TableLook | str) -> None:
        width = max(_LEAST_CELLS, self.query_one("#table-look", VerticalScroll).size.width - 1)
        said = Content.styled(clean_lines(found), "$dim") if isinstance(found, str) else drawn(found, width)
        self.query_one("#table-look-said", Static).update(said)

    @on(OptionList.OptionSelected)
    def _chosen(self, event: OptionList.OptionSelected) -> None:
        self._open(event.option_index)

    def _open(self, place: int) -> None:
        self.dismiss(TableLine(None, (self._tables[place][0],) if place < len(self._tables) else ()))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        tables, query = self.query_one(OptionList), self.query_one(Input)
        return {
            "tables-away": self.put_away,
            "tables-open": self._enter,
            "tables-switch": lambda: self.set_focus(query if self.focused is tables else tables),
            **({} if self.focused is query else choice_calls(tables)),
        }

    def _enter(self) -> None:
        """Open what is marked, or ask the query."""
        query, place = self.query_one(Input), self.query_one(OptionList).highlighted
        if self.focused is query:
            if query.value.strip():
                self.dismiss(QueryLine(None, query.value.strip()))
        elif place is not None:
            self._open(place)


def drawn(look: TableLook, width: int) -> Content:
    """Draw a table that is not open yet: how much there is of it, its columns with their kinds, its first rows."""
    rows = "" if look.row_count is None else f"{plural(look.row_count, 'row')} × "
    shown = max(1, (width + 1) // (_CELL_CELLS + 1))
    lines: list[tuple[str, str]] = [(f"{rows}{plural(len(look.names), 'column')}", "bold")]
    if len(look.names) > shown:
        others = ", ".join(map(clean, look.names[shown:]))
        lines.append((f"\nbesides those below: {fit(others, max(1, width - 21)).rstrip()}", "$dim"))
    lines.append(("\n" + _line(look.names[:shown]), "bold"))
    lines.append(("\n" + _line([str(kind) for kind in look.kinds[:shown]]), "$dim"))
    lines += [("\n" + _line(row[:shown]), "") for row in look.rows]
    return Content.assemble(*lines)


def _line(cells: Sequence[str | None]) -> str:
    return " ".join(fit(clean(cell or ""), _CELL_CELLS) for cell in cells).rstrip()

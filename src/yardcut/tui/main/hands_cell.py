"""What the keys do in the table: moving about, and lines about the cell under the cursor."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.desk.view import View
from yardcut.tui.main.asking import Meaning, Question

if TYPE_CHECKING:
    from yardcut.tui.cards.row import CardRow
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting import Prompting
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.widgets.grid.model import GridSource


_MOST_ROW_DIGITS = 19
_LONG_CHARACTERS = 1_000
"""A cell of more is not written into a line to be read: about its beginning is."""


class CellHands:
    """The cursor and its cell."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting

    @property
    def calls(self) -> Calls:
        """What carries out the actions in the table."""
        grid = self._stage.grid
        return {
            "up": lambda: grid.move(-1, 0),
            "down": lambda: grid.move(1, 0),
            "left": lambda: grid.move(0, -1),
            "right": lambda: grid.move(0, 1),
            "page-up": lambda: grid.page(-1),
            "page-down": lambda: grid.page(1),
            "page-left": lambda: grid.page_columns(-1),
            "page-right": lambda: grid.page_columns(1),
            "first-column": lambda: grid.edge_column(-1),
            "last-column": lambda: grid.edge_column(1),
            "first-row": lambda: grid.edge_row(-1),
            "last-row": lambda: grid.edge_row(1),
            "keep-value": lambda: self._enter("keep"),
            "drop-value": lambda: self._enter("drop"),
            "about-value": self._write_about,
            "row-card": self._row_card,
            "go": self._go,
        }

    def _line(self, verb: str) -> str:
        from yardcut.tui.desk.cells import line_about

        column, cell = self._stage.grid.cursor_column, self._stage.grid.cursor_cell()
        assert column is not None
        assert cell is not None
        return line_about(verb, column.name, column.kind, cell[0])

    def _enter(self, verb: str) -> None:
        """Keep or drop the rows with this cell's value."""
        stage = self._stage
        assert stage.desk is not None
        if stage.desk.now.view is View.OFFCUT:
            stage.say("these rows are off already: o goes back to those that are left")
            return
        line = self._line(verb)
        try:
            index = stage.desk.enter(line, stage.desk.now.selected)
        except ListError as error:
            stage.say_error(error)
            return
        stage.say(f"{line}   (line {index + 1}; u takes it back)")

    def _write_about(self) -> None:
        """Begin a line about this cell."""
        stage = self._stage
        column, cell = stage.grid.cursor_column, stage.grid.cursor_cell()
        assert column is not None
        assert cell is not None
        text = cell[0] or ""
        if len(text) <= _LONG_CHARACTERS:
            self._prompting.write(self._line("keep"))
            return
        from yardcut.tui.desk.cells import line_about_beginning

        self._prompting.write(line_about_beginning("keep", column.name, text))
        stage.say(f"this cell holds {len(text):,} characters: the line is about its beginning")

    def _row_card(self) -> None:
        """Show the row from top to bottom."""
        from yardcut.tui.cards.row import CardRow, RowCard

        grid, source = self._stage.grid, self._stage.grid.source

        def read(position: int) -> CardRow | None:
            if not 0 <= position < source.row_count:
                return None
            page = source.page(position, position + 1, range(len(source.columns)))
            fields = [
                (column.name, f"{column.kind} {column.number}", cells[0])
                for column, cells in zip(source.columns, page.cells, strict=True)
            ]
            return CardRow(position, page.source_rows[0], fields)

        def closed(position: int | None) -> None:
            row = None if position is None else read(position)
            if row is not None:
                grid.go_to(row_position=_position_now(grid.source, source, row))

        if source.row_count:
            self._stage.app.push_screen(RowCard(grid.viewport.row_position, read), closed)
        else:
            self._stage.say("there are no rows here")

    def _go(self) -> None:
        """Ask for a row by number or a column by part of its name."""
        stage = self._stage
        step = [0]

        def names() -> list[str]:
            return [column.name for column in stage.grid.source.columns]

        def meant(text: str) -> tuple[int | None, int | None, int]:
            text = text.strip()
            digits = text.replace(",", "")
            if digits.isdecimal() and len(digits) < _MOST_ROW_DIGITS:
                return int(digits) - 1, None, 1
            found = columns_by_part(text, names())
            return None, found[step[0] % len(found)] if found else None, len(found)

        def means(text: str) -> Meaning:
            row, column, matches = meant(text)
            source = stage.grid.source
            if row is not None:
                good = 0 <= row < source.row_count
                there = f"row {row + 1:,} of {source.row_count:,}" if good else f"there are {source.row_count:,} rows"
                return Meaning(there, good)
            if column is not None:
                found = source.columns[column]
                more = f"   ({step[0] % matches + 1} of {matches}; ↓ the next)" if matches > 1 else ""
                return Meaning(f"the column {found.name}, {found.kind}, number {found.number}{more}", good=True)
            if not text.strip():
                return Meaning("a row by its number, or a column by part of its name")
            return Meaning("no column has that in its name")

        def go(text: str) -> None:
            row, column, _ = meant(text)
            stage.grid.go_to(row, column)

        def again(by: int) -> None:
            step[0] += by

        def options(text: str) -> list[str]:
            return [name for name in names() if text.casefold() in name.casefold()]

        self._prompting.ask(Question("go to ▸", "", means, go, options=options, again=again))


def _position_now(now: GridSource, then: GridSource, row: CardRow) -> int:
    """Return where a row of a card stands in the rows shown now, which may have changed under the card."""
    from yardcut.tui.desk.grids import FrameSource

    if now is then or not isinstance(now, FrameSource):
        return row.position
    return now.position_of(row.source_row)


def columns_by_part(text: str, names: list[str]) -> list[int]:
    """Return the places of the columns whose name starts with a text, then of those that have it in them."""
    wanted = text.casefold()
    if not wanted:
        return []
    starts = [place for place, name in enumerate(names) if name.casefold().startswith(wanted)]
    return starts + [place for place, name in enumerate(names) if wanted in name.casefold() and place not in starts]

"""What the keys do in the table: moving about, and lines about the cell under the cursor."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.desk.view import View
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.looking import column_looked_at
from yardcut.tui.main.prompting.going import go_to
from yardcut.tui.text import plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.behind_figures import Behind
    from yardcut.tui.cards.looking.row import CardRow
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.widgets.grid.grid_source import GridSource


_LONG_CHARACTERS = 1_000
"""A cell of more is not written into a line to be read: about its beginning is."""


class CellHands:
    """The cursor and its cell."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing) -> None:
        self._stage = stage
        self._prompting = prompting
        self._doing = doing
        self._behind: Behind | None = None
        doing.own["behind"] = self._show_behind

    @property
    def calls(self) -> Calls:
        """What carries out the actions in the table."""
        grid = self._stage.grid
        return {
            "up": lambda: grid.move(-1, 0),
            "down": lambda: grid.move(1, 0),
            "left": lambda: grid.move(0, -1),
            "right": lambda: grid.move(0, 1),
            "page-up": lambda: grid.page(rows=-1),
            "page-down": lambda: grid.page(rows=1),
            "page-left": lambda: grid.page(columns=-1),
            "page-right": lambda: grid.page(columns=1),
            "first-column": lambda: grid.edge(columns=-1),
            "last-column": lambda: grid.edge(columns=1),
            "first-row": lambda: self._jump(lambda: grid.edge(rows=-1)),
            "last-row": lambda: self._jump(lambda: grid.edge(rows=1)),
            "row-back": self._row_back,
            "keep-value": lambda: self._enter("keep"),
            "drop-value": lambda: self._enter("drop"),
            "about-value": self._write_about,
            "cell-card": self._card,
            "row-card": self._row_card,
            "go": self._go,
        }

    def _jump(self, go: Callable[[], object]) -> None:
        """Go far away, and keep the row the cursor stood on to go back to."""
        self._stage.leave_row()
        go()

    def _row_back(self) -> None:
        """Go back to the row the cursor stood on before, and keep this one in its place."""
        grid, row = self._stage.grid, self._stage.row_left
        if row is None or not hasattr(grid.source, "position_of"):
            self._stage.say("there was no order or jump to go back from")
            return
        self._stage.leave_row()
        grid.go_to(row_position=grid.source.position_of(row))

    def _line(self, verb: str) -> str:
        from yardcut.tui.desk.offering.cell_lines import line_about

        column, cell = self._stage.grid.cursor_column, self._stage.grid.cursor_cell()
        assert column is not None
        assert cell is not None
        return line_about(verb, column.name, column.kind, cell[0])

    def _enter(self, verb: str) -> None:
        """Keep or drop the rows with this cell's value."""
        stage = self._stage
        assert stage.desk is not None
        if stage.desk.now.view.is_gone:
            stage.say(f"these rows are off already: {key_of('offcut')} goes back to those that are left")
            return
        line = self._line(verb)
        try:
            index = stage.desk.edits.enter(line, stage.desk.now.selected)
        except ListError as error:
            stage.say_error(error)
            return
        stage.say(f"{line}   (line {index + 1}; {key_of('undo')} takes it back)")

    def _card(self) -> None:
        """Offer the likely conditions about this cell."""
        from yardcut.tui.cards.columns.cell import CellCard

        stage, looked_at = self._stage, column_looked_at(self._stage)
        cell = stage.grid.cursor_cell()
        assert cell is not None
        if looked_at is None or stage.desk is None:
            return
        source, _, shown = looked_at
        behind = self._behind_cell(shown)
        stage.app.push_screen(CellCard(stage.desk.now, shown, cell[0], source.label, behind), self._doing.done)

    def _behind_cell(self, shown: ShownColumn) -> Behind | None:
        """Return what stands behind the cell under the cursor, where it is a figure that was put together."""
        from yardcut.core.run.explaining.behind_figures import behind_figure

        stage = self._stage
        assert stage.desk is not None
        now, position = stage.desk.now, stage.grid.viewport.row_position
        frame = getattr(getattr(stage.grid.source, "rows", None), "frame", None)
        if frame is None or now.view is not View.ROWS or frame.table.leads_to_source:
            return None
        row_id = int(frame.rows.ids(position, position + 1)[0])
        self._behind = behind_figure(now.results[: now.selected + 1], frame, row_id, shown)
        return self._behind

    def _show_behind(self) -> None:
        """Show the rows behind the figure the card was about."""
        from yardcut.core.cutlist.model import Line
        from yardcut.core.run.executing.bound_lines import BoundLine, bind_line

        stage, behind = self._stage, self._behind
        assert stage.desk is not None
        if behind is None:
            return
        now = stage.desk.now
        scope = now.scope_at(behind.tally - 1)
        line = Line(behind.line)
        bound = BoundLine(line, line.statement(), bind_line(behind.line, scope), scope)

        def work(token: CancelToken, progress: Progress) -> LineResult:
            return list(now.executor.run_bound([*now.lines[: behind.tally], bound], token, progress))[-1]

        def shown(result: LineResult) -> None:
            if stage.desk is not None and stage.desk.now.results is now.results:
                said = f"behind the figure: {plural(result.rows.count, 'row')} above line {behind.tally + 1}"
                stage.desk.look_at_behind(result.frame, said, result.fingerprint, behind)
                stage.say(f"{behind.line}   ({key_of('look-real')} makes it a line, {key_of('stop')} goes back)")

        stage.jobs.start(Job.TREE, work, shown, stage.say_error)

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
        from yardcut.tui.desk.offering.cell_lines import line_about_beginning

        self._prompting.write(line_about_beginning("keep", column.name, text))

    def _row_card(self) -> None:
        """Show the row from top to bottom."""
        from yardcut.tui.cards.looking.row import CardRow, RowCard

        grid, source = self._stage.grid, self._stage.grid.source

        def read(position: int) -> CardRow | None:
            if not 0 <= position < source.row_count:
                return None
            page = source.page(position, position + 1, range(len(source.columns)))
            fields = [
                (column.name, column.about, cells[0]) for column, cells in zip(source.columns, page.cells, strict=True)
            ]
            number = page.source_rows[0] if source.leads_to_source else None
            return CardRow(position, number, fields, self._left_out(source, position))

        def closed(position: int | None) -> None:
            row = None if position is None else read(position)
            if row is not None:
                grid.go_to(row_position=_position_now(grid.source, source, row))

        if source.row_count:
            self._stage.app.push_screen(RowCard(grid.viewport.row_position, read), closed)
        else:
            self._stage.say("there are no rows here")

    def _left_out(self, source: GridSource, position: int) -> list[tuple[str, str, str | None]]:
        """Return the fields of a row that are not in the table shown, though lines can work with them."""
        from yardcut.tui.desk.grids import FrameSource

        desk = self._stage.desk
        if not isinstance(source, FrameSource) or desk is None:
            return []
        frame, there = source.rows.frame, {column.number for column in source.columns}
        hidden = [column for column in desk.now.scope_at(desk.now.selected).known if column.number not in there]
        cells = replace(frame, columns=tuple(hidden)).page(position, position + 1, range(len(hidden))).cells
        return [
            (column.name, f"{column.kind.value} {column.number}", values[0])
            for column, values in zip(hidden, cells, strict=True)
        ]

    def _go(self) -> None:
        """Ask for a row by number or a column by part of its name."""
        self._prompting.ask(go_to(self._stage.grid, self._stage.leave_row))


def _position_now(now: GridSource, then: GridSource, row: CardRow) -> int:
    """Return where a row of a card stands in the rows shown now, which may have changed under the card."""
    from yardcut.tui.desk.grids import FrameSource

    if now is then or not isinstance(now, FrameSource):
        return row.position
    return row.position if row.source_row is None else now.position_of(row.source_row)

"""Copying: a cell, the rows on screen, a column, the line, the list, the cut explained."""

from __future__ import annotations

import csv
import io
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.clipboard import MOST_CHARACTERS, to_system, to_terminal
from yardcut.tui.text import glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.tui.cards.files.copying import Copyable
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.stage import Stage

_MOST_VALUES = 1_000_000


class CopyHands:
    """Copies what is seen."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "copy-cell": self._cell,
            "copy-rows": self._rows,
            "copy": self._card,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _card(self) -> None:
        """Show what there is to copy."""
        from yardcut.tui.cards.files.copying import CopyingCard

        def chosen(what: Copyable | None) -> None:
            if what is not None:
                what.copy()

        self._stage.app.push_screen(CopyingCard(self._copyable()), chosen)

    def _copyable(self) -> list[Copyable]:
        from yardcut.core.cutlist.file import list_text
        from yardcut.tui.cards.files.copying import Copyable

        now, grid = self._desk.now, self._stage.grid
        found = []
        cell, column = grid.cursor_cell(), grid.cursor_column
        if cell is not None and cell[0] is not None:
            found.append(Copyable("the cell", cell[0], self._cell))
        if column is not None:
            found.append(Copyable("the column", f"{column.name}: its values in the rows of the table", self._column))
        if grid.source.columns:
            found.append(Copyable("the rows on screen", "tabs between their cells, under the names", self._rows))
        if 0 <= now.selected < len(now.cut.lines):
            text = now.cut.lines[now.selected].text.strip()
            found.append(Copyable("the line", text, lambda: self._copy(text, f"copied {glance(text)}")))
        whole = list_text(now.cut_list)
        lines = plural(sum(len(cut.lines) for cut in now.cut_list.cuts), "line")
        copy_list = lambda: self._copy(whole, f"copied the list of {lines}")  # noqa: E731
        found.append(Copyable("the list", f"{lines}, as its file has them", copy_list))
        found.append(Copyable("the cut explained", "each line in a plain sentence", self._explanation))
        return found

    def _cell(self) -> None:
        cell = self._stage.grid.cursor_cell()
        assert cell is not None
        if cell[0] is None:
            self._stage.say("there is no value here")
        else:
            self._copy(cell[0], f"copied {glance(cell[0])}")

    def _rows(self) -> None:
        """Copy the rows and columns on screen, tabs between their cells, as spreadsheets take them."""
        grid = self._stage.grid
        places = grid.visible_columns()
        first, end = grid.rows_on_screen()
        page = grid.source.page(first, end, places)
        text = io.StringIO()
        writer = csv.writer(text, delimiter="\t", lineterminator="\n")
        writer.writerow([grid.source.columns[place].name for place in places])
        writer.writerows(["" if cell is None else cell for cell in row] for row in zip(*page.cells, strict=True))
        rows, columns = plural(end - first, "row"), plural(len(places), "column")
        self._copy(text.getvalue(), f"copied {rows} of {columns}, as they are on screen")

    def _column(self) -> None:
        """Copy the values of the column under the cursor, a line each, of all rows of the table."""
        from yardcut.tui.desk.grids import FrameSource

        grid = self._stage.grid
        source, column = grid.source, grid.cursor_column
        if not isinstance(source, FrameSource) or column is None:
            self._stage.say("there are no values here yet")
            return
        frame, place = source.rows.frame, next(at for at, each in enumerate(source.columns) if each is column)
        if frame.rows.count > _MOST_VALUES:
            self._stage.say(f"that is too much for a clipboard: {plural(frame.rows.count, 'value')}", "$warning")
            return

        def work(token: CancelToken, progress: Progress) -> str:
            cells = frame.page(0, frame.rows.count, [place]).cells[0]
            return "\n".join("" if cell is None else cell for cell in cells)

        said = f"copied {plural(frame.rows.count, 'value')} of {column.name}"
        self._work(work, said)

    def _explanation(self) -> None:
        """Copy the cut explained, as plain text."""
        from yardcut.core.run.telling.explanation import explain
        from yardcut.core.run.telling.written import as_text

        now = self._desk.now

        def work(token: CancelToken, progress: Progress) -> str:
            results = list(now.executor.run_bound(now.lines, token, progress))
            return as_text(explain(now.cut, results, now.cut_list.dials, now.executor, now.spec.label, token))

        self._work(work, "copied the cut explained")

    def _work(self, work: Callable[[CancelToken, Progress], str], said: str) -> None:
        """Make a text and hand it over, behind the screen."""

        def made(token: CancelToken, progress: Progress) -> tuple[str, bool]:
            text = work(token, progress)
            return text, to_system(text)

        self._stage.jobs.start(Job.COPY, made, lambda found: self._made(*found, said), self._stage.say_error)

    def _copy(self, text: str, said: str) -> None:
        self._work(lambda token, progress: text, said)

    def _made(self, text: str, went: bool, said: str) -> None:
        took = to_terminal(self._stage.app, text)
        if not took and not went:
            much = f"{len(text):,} characters, and a terminal takes {MOST_CHARACTERS:,}"
            self._stage.say(f"that is too much for the clipboard of a terminal: {much}", "$warning")
        else:
            self._stage.say(said if went else f"{said}   (where the terminal lets programs copy)")

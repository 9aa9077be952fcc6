"""The cell under the cursor, or the rows on screen, to the clipboard of whoever sits at the terminal (OSC 52)."""

from __future__ import annotations

import csv
import io
from typing import TYPE_CHECKING

from yardcut.tui.text import glance, plural

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.stage import Stage

_MOST_CHARACTERS = 74_000
"""Some terminals take no more at once (as base64, 100,000 bytes)."""


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
        }

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

    def _copy(self, text: str, said: str) -> None:
        if len(text) > _MOST_CHARACTERS:
            self._stage.say(f"that is too much for a clipboard of a terminal: {len(text):,} characters", "$warning")
            return
        self._stage.app.copy_to_clipboard(text)
        self._stage.say(f"{said}   (where the terminal lets programs copy)")

"""What the rows of a cross-table come to across, at their right: in a strip of its own, never among the columns."""

from __future__ import annotations

from collections.abc import Sequence

from rich.cells import cell_len
from rich.segment import Segment
from textual.strip import Strip

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.text import clean, fit
from yardcut.tui.widgets.grid.grid_lines import HEAD_LINES, GridStyles
from yardcut.tui.widgets.grid.viewport import GAP_CELLS


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands at the right of the rows, in a strip of its own: heads, one text a row, one for all rows."""

    head: str
    rows: tuple[str, ...]
    last: str
    cells: int

    @classmethod
    def of(cls, columns: Sequence[tuple[str, tuple[str, ...], str]]) -> Beside:
        """Return a strip of columns, given by name, texts of the rows, and the text of all of them."""
        several = len(columns) > 1
        heads = [f"all {clean(name)}" if several else "all" for name, _, _ in columns]
        sizes = [
            max(cell_len(head), cell_len(last), *map(cell_len, texts), 0)
            for head, (_, texts, last) in zip(heads, columns, strict=True)
        ]
        rows = zip(*(texts for _, texts, _ in columns), strict=True)
        lasts = [last for _, _, last in columns]
        return cls(
            _side(heads, sizes), tuple(_side(texts, sizes) for texts in rows), _side(lasts, sizes),
            sum(sizes) + GAP_CELLS * len(sizes) + 1,
        )  # fmt: skip

    def fitting(self, width: int) -> int:
        """Return its cells within a grid's; none where it would take more room than the columns have."""
        return self.cells if self.cells * 2 < width else 0

    def line(self, y: int, top: int, styles: GridStyles, *, is_total: bool) -> Strip:
        """Draw a line of it beside line ``y`` of the grid, whose first row is the one at position ``top``."""
        style, text = styles.row + styles.name, ""
        if is_total:
            text = self.last
        elif y == 0:
            text = self.head
        elif y < HEAD_LINES:
            style, text = styles.base + styles.rule, "─" * self.cells * (y == HEAD_LINES - 1)
        elif top + y - HEAD_LINES < len(self.rows):
            text = self.rows[top + y - HEAD_LINES]
        else:
            style = styles.base
        return Strip([Segment(fit(text, self.cells), style)], self.cells)


def _side(texts: Sequence[str], sizes: Sequence[int]) -> str:
    return "".join(" " * GAP_CELLS + fit(text, size, right=True) for text, size in zip(texts, sizes, strict=True))

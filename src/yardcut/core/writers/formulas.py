"""Texts that a spreadsheet would run as formulas when it opens delimited text."""

from __future__ import annotations

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.rowset import ordered
from yardcut.core.table.vectors import CodedVector
from yardcut.core.values.kinds import Kind

RUNS_AS_FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a text begins with that spreadsheets run as a formula."""


_MOST_ROWS = 500_000


@dataclass(frozen=True, slots=True)
class Formulas:
    """How many cells of a slice there are of that kind, and one of them; ``looked_at`` rows, 0 for all."""

    cells: int
    example: str = ""
    looked_at: int = 0

    def sentence(self) -> str:
        """Say it, and what to do; "" where there are none."""
        if not self.cells:
            return ""
        many = "1 text begins" if self.cells == 1 else f"{self.cells:,} texts begin"
        where = f" among the first {self.looked_at:,} rows" if self.looked_at else ""
        return f"{many} as formulas do{where} ({self.example[:30]}): add  guard formulas  if a spreadsheet will open it"


def formulas_in(frame: Frame, token: CancelToken) -> Formulas:
    """Count the texts of a slice that begin as formulas do, of a large one among its first rows.

    Raises ``SourceError`` and ``StoppedError``.
    """
    columns = [column for column in frame.columns if column.kind is Kind.TEXT]
    cells, example, looked_at = 0, "", 0
    if frame.rows.count > _MOST_ROWS:
        looked_at = _MOST_ROWS
        frame = frame.with_rows(ordered(frame.rows.ids(0, _MOST_ROWS), frame.rows.table_rows))
    for window in frame.windows(columns, token, Progress()):
        for column in columns:
            vector = evaluate(column.value, window)
            if isinstance(vector, CodedVector):
                vector = vector.in_use()
                odd = {code for code, text in enumerate(vector.dictionary.texts) if text.startswith(RUNS_AS_FORMULA)}
                if not odd:
                    continue
            for text in vector.texts():
                if text is not None and text.startswith(RUNS_AS_FORMULA):
                    cells, example = cells + 1, example or text
    return Formulas(cells, example, looked_at)

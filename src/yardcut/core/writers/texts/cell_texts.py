"""How cells of delimited text are written."""

from __future__ import annotations

import re
from collections.abc import Collection

from yardcut.core.errors import Mend, TargetError
from yardcut.core.language.save_options import DECIMAL, DELIMITER, GUARD, LINE_ENDS, MISSING, QUOTE, QUOTING
from yardcut.core.table.vectors import CodedVector, NumericVector, Vector
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.formats.delimited_text import BlockWriter
from yardcut.core.writers.formulas import RUNS_AS_FORMULA
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.texts.number_texts import number_texts

_SEPARATORS = frozenset(",;\t|")
"""What stands in no number and no day."""


class CellWriter:
    """Writes cells as the options of a plan say."""

    def __init__(self, plan: Plan) -> None:
        options = plan.options
        self.delimiter = options[DELIMITER] or ","
        self.ending = "\r\n" if options[LINE_ENDS] == "crlf" else "\n"
        self._quote = options[QUOTE] or '"'
        self.empty = self._quote * 2
        """An empty cell in quotes: the one cell of a row that would be no row at all."""
        self._needs_quotes = re.compile(f"[{re.escape(self._quote)}\r\n{re.escape(self.delimiter)}]")
        self._missing = self._quoted(options[MISSING] or "")
        self._missing_text = options[MISSING]
        self._decimal = options[DECIMAL] or "."
        self._guard = options[GUARD]
        self._quoting = options[QUOTING]

    def blocks(self) -> BlockWriter | None:
        """Return what writes whole blocks at once, where the options allow it."""
        plain = not self._guard and self._quoting == "needed" and not self._missing and self._decimal == "."
        if plain and self.ending == "\n" and self.delimiter in _SEPARATORS:
            return BlockWriter(self.delimiter, self._quote, self.cell)
        return None

    def cell(self, text: str, kind: Kind) -> str:
        """Write one cell that has a value."""
        if self._guard and kind is Kind.TEXT and text.startswith(RUNS_AS_FORMULA):
            text = "'" + text
        wants = self._quoting == "all" or (self._quoting == "texts" and kind is Kind.TEXT)
        return self._quoted(text, wants)

    def _quoted(self, text: str, wants: bool = False) -> str:
        if wants or self._needs_quotes.search(text):
            return f"{self._quote}{text.replace(self._quote, self._quote * 2)}{self._quote}"
        return text

    def _check(self, texts: Collection[str]) -> None:
        """Raise ``TargetError`` where a value is written as what stands for no value: nobody could tell the two."""
        if self._missing_text is not None and self._missing_text in texts:
            raise TargetError(
                f"missing {quote_text(self._missing_text)} stands for no value, and is a value of this slice too",
                mend=Mend("give another text for missing values"),
            )

    def _written(self, texts: list[str], kind: Kind) -> list[str]:
        """Write cells that have values: most often as they are, which one look at all of them tells."""
        if self._quoting == "all" or (kind is Kind.TEXT and (self._guard or self._quoting == "texts")):
            return [self.cell(text, kind) for text in texts]
        marks, whole = (self.delimiter, self._quote, "\r", "\n"), "".join(texts)
        if not any(mark in whole for mark in marks):
            return texts
        return [self.cell(text, kind) if any(mark in text for mark in marks) else text for text in texts]

    def own_cells(self, texts: list[str], kind: Kind, gone: list[bool] | None) -> list[str]:
        """Write the cells of a column as they stand in the source, those without a value as the options say."""
        cells = self._written(texts, kind)
        if gone is None:
            self._check(texts)
            return cells
        self._check([text for no, text in zip(gone, texts, strict=True) if not no])
        return [self._missing if no else cell for cell, no in zip(cells, gone, strict=True)]

    def cells(self, vector: Vector) -> list[str]:
        """Write the cells of a column."""
        if isinstance(vector, CodedVector):
            vector = vector.in_use()
            self._check(vector.dictionary.texts)
            words = [*(self.cell(text, vector.kind) for text in vector.dictionary.texts), self._missing]
            return list(map(words.__getitem__, vector.codes.tolist()))
        texts = number_texts(vector) if isinstance(vector, NumericVector) else vector.texts()
        if vector.kind is Kind.NUMBER and self._decimal != ".":
            texts = [None if text is None else text.replace(".", self._decimal) for text in texts]
        self._check(texts)  # type: ignore[arg-type] # what is not there is no text
        if vector.missing_mask() is None:
            return self._written(texts, vector.kind)  # type: ignore[arg-type] # none is missing
        cells = self._written(["" if text is None else text for text in texts], vector.kind)
        return [self._missing if text is None else cell for text, cell in zip(texts, cells, strict=True)]

"""How many values of a column would not fit another kind: known before anything is read again."""

from __future__ import annotations

from collections import Counter

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.kinds.declared import parser_of
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector
from yardcut.core.values.kinds import Kind

_CHUNK_ROWS = 1 << 17
_MOST_ROWS = 2_000_000


@dataclass(frozen=True, slots=True)
class Unfit:
    """The values of a column that do not fit a kind: how many of how many, and the commonest with their counts."""

    name: str
    kind: Kind
    values: int
    unfit: int
    commonest: tuple[tuple[str, int], ...]
    looked_at_all: bool

    def sentence(self) -> str:
        """Say it."""
        some = "" if self.looked_at_all else f" of the first {_MOST_ROWS:,} rows"
        if not self.unfit:
            return f"{self.name}: all {self.values:,} values{some} fit {self.kind}"
        texts = ", ".join(f"{text} ×{times}" for text, times in self.commonest)
        return f"{self.name}: {self.unfit:,} of {self.values:,} values{some} do not fit {self.kind}: {texts}"


def values_unfit(table: Table, number: int, declared: DeclaredKind) -> Unfit:
    """Count the values of a column (from 0) that do not fit a kind. Looks at each different text once."""
    column = table.columns[number]
    rows = min(column.rows, _MOST_ROWS)
    counted: Counter[str] = Counter()
    for start in range(0, rows, _CHUNK_ROWS):
        vector = column.slice(start, min(rows, start + _CHUNK_ROWS))
        if isinstance(vector, CodedVector):
            import numpy as np

            codes, times = np.unique(vector.codes, return_counts=True)
            for code, count in zip(codes.tolist(), times.tolist(), strict=True):
                if code >= 0:
                    counted[vector.dictionary.texts[code]] += count
        else:
            counted.update(text for text in vector.texts() if text is not None)
    if declared.kind is Kind.TEXT:
        unfit: Counter[str] = Counter()
    else:
        parse = parser_of(declared, table.info.marks if column.kind is Kind.TEXT else ".")
        unfit = Counter({text: times for text, times in counted.items() if text.strip() and parse(text) is None})
    return Unfit(column.name, declared.kind, counted.total(), unfit.total(), tuple(unfit.most_common(4)),
                 rows == column.rows)  # fmt: skip

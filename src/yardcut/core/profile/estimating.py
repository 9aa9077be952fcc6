"""What a column holds when it has too many values to sort: distinct values and quartiles estimated, the ends exact.

Distinct values by the smallest hashes (Bar-Yossef et al., "Counting distinct elements in a data stream", 2002): when
the k-th smallest of all hashes is a fraction f of their range, there are about (k - 1) / f of them, with a standard
error of 1 in the square root of k.
"""

from __future__ import annotations

from dataclasses import field, replace

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.profile.hashes import mixed, number_hashes
from yardcut.core.profile.members import members_with_values
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.text_keys import text_hashes
from yardcut.core.table.vectors import CodedVector, NumericVector
from yardcut.core.table.window import Span

KEPT_HASHES = 1 << 16
SAMPLE_ROWS = 1 << 18


@dataclass(frozen=True, slots=True, eq=False)
class Sketch:
    """What is known of the values so far.

    ``hashes`` are the smallest distinct ones, sorted; ``ranks`` and ``rows`` a sample of rows by chance; ``least`` and
    ``most`` the ends of numbers; ``present`` counts the rows with a value.
    """

    present: int
    hashes: Array
    ranks: Array
    rows: Array
    least: float | int | None = None
    most: float | int | None = None

    def distinct(self) -> int:
        """Return how many distinct values there are: exactly while all hashes were kept, else estimated."""
        if len(self.hashes) < KEPT_HASHES:
            return len(self.hashes)
        return round((KEPT_HASHES - 1) / (int(self.hashes[-1]) / 2.0**64))


@dataclass(frozen=True, slots=True, eq=False)
class SketchRound(Round[Sketch, Sketch]):
    """Sketches one expression over the members."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> Sketch:
        """Sketch one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        assert not isinstance(vector, CodedVector)
        kept = members_with_values(vector, self.members, part)
        within = np.flatnonzero(kept)
        rows = (within + part.first_row).astype(np.uint32)
        ranks = mixed(rows.astype(np.uint64))
        if not isinstance(vector, NumericVector):
            return _trimmed(Sketch(len(rows), text_hashes(vector)[within], ranks, rows))
        sketch = _trimmed(Sketch(len(rows), number_hashes(vector)[within], ranks, rows))
        if not len(rows):
            return sketch
        values = vector.values[within]
        return replace(sketch, least=values.min().item(), most=values.max().item())

    def merge(self, one: Sketch, other: Sketch) -> Sketch:
        """Keep the smallest hashes and ranks of both."""
        ends = [sketch for sketch in (one, other) if sketch.least is not None]
        return _trimmed(
            Sketch(
                one.present + other.present,
                np.concatenate((one.hashes, other.hashes)),
                np.concatenate((one.ranks, other.ranks)),
                np.concatenate((one.rows, other.rows)),
                min((sketch.least for sketch in ends), default=None),  # type: ignore[type-var]
                max((sketch.most for sketch in ends), default=None),  # type: ignore[type-var]
            )
        )

    def finish(self, state: Sketch) -> Sketch:
        """Return the sketch, the sample in the order of the rows."""
        order = np.argsort(state.rows, kind="stable")
        return replace(state, rows=state.rows[order], ranks=state.ranks[order])


def _trimmed(sketch: Sketch) -> Sketch:
    hashes = sketch.hashes
    if len(hashes) > 4 * KEPT_HASHES:
        # most hashes are too large to matter: a look at the k-th smallest spares sorting them, unless values repeat
        few = np.unique(np.partition(hashes, 2 * KEPT_HASHES)[: 2 * KEPT_HASHES])
        hashes = few if len(few) >= KEPT_HASHES else np.unique(hashes)
    else:
        hashes = np.unique(hashes)
    ranks, rows = sketch.ranks, sketch.rows
    if len(rows) > SAMPLE_ROWS:
        best = np.argpartition(ranks, SAMPLE_ROWS)[:SAMPLE_ROWS]  # ranks of rows are all different
        ranks, rows = ranks[best], rows[best]
    return replace(sketch, hashes=hashes[:KEPT_HASHES], ranks=ranks, rows=rows)

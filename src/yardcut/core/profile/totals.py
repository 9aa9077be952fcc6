"""Rows that are totals of other rows: one value of a column whose numbers add up to those of all others."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from yardcut.core.expressions.piece_rounds import AnswerRound
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.profile.sums import SumRound
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.values.kinds import Kind

_MOST_VALUES, _MOST_COLUMNS, _MOST_ROWS = 60, 6, 1 << 20
_NEAR = Fraction(1, 100)
_WORDS = ("all", "total", "sum", "overall")


def total_among(
    column: b.ShownColumn, values: Sequence[tuple[str, int]], columns: Sequence[b.ShownColumn], rows: RowSet,
    runner: Runner, token: CancelToken,
) -> tuple[str, str] | None:  # fmt: skip
    """Return a value of a text column whose rows look like totals of the others, and the column whose sums say so.

    The sum over the value's rows is within a hundredth of the sum over all other rows. Of many values, or many rows,
    only those are tried whose text says so. ``values`` are (text, rows) of the column among ``rows``.
    """
    if column.kind is not Kind.TEXT or len(values) < 3:
        return None
    tried = [text for text, _ in values]
    if len(values) > _MOST_VALUES or rows.count > _MOST_ROWS:
        tried = [text for text in tried if any(word in _WORDS for word in text.lower().split())]
    if not tried:
        return None
    table = runner.table
    numeric = [
        each
        for each in columns
        if each.kind.is_numeric and all(table.columns[number].is_loaded for number in columns_of(each.value))
    ]
    members = rows.member_bits()
    whole_sums = [(each, runner.run(SumRound(each.value, members), token)) for each in numeric[:_MOST_COLUMNS]]
    for text in tried[:_MOST_VALUES]:
        piece = b.Piece(b.Compare("=", column.value, b.Constant(Kind.TEXT, text)))
        parts = runner.run(AnswerRound((piece,)), token)
        own: Array = np.concatenate([answers[piece].true for answers in parts]) & members
        for each, whole in whole_sums:
            token.check()
            part = None if whole is None else runner.run(SumRound(each.value, own), token)
            if whole is None or part is None:
                continue
            if isinstance(whole, float) or isinstance(part, float):  # not finite
                continue
            rest = Fraction(whole - part)
            if rest > 0 and abs(part - rest) <= rest * _NEAR:
                return text, each.name
    return None

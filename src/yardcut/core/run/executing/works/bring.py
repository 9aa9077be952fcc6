"""The work of ``bring``: which rows are left, and rows that stand once for each row they find."""

from __future__ import annotations

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.meaning.bound_second import Brought
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.bring_parts import Only
from yardcut.core.run.executing.looked_up import Matched
from yardcut.core.run.executing.second_values import values_there
from yardcut.core.run.executing.works.work import Tools, Work, Worked
from yardcut.core.table.array_file import Array
from yardcut.core.table.copies import TableOfCopies
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.window import Scatter

MOST_ROWS = 100_000_000
"""Rows that may stand for others."""


def _run(body: BoundBring, frame: Frame, tools: Tools) -> Worked:
    rows = frame.rows
    if body.found is not None:
        answers = tools.pieces.combined(b.Piece(b.BooleanValue(body.found)), tools.token, tools.progress)
        rows = rows.only(answers.true) if body.only is Only.MATCHED else rows.without(answers.true)
    if not body.matching.every:
        return Worked(rows)
    return _repeated(body, frame, rows, tools.matched(body.matching))


def _repeated(body: BoundBring, frame: Frame, rows: RowSet, matched: Matched) -> Worked:
    """Return each row as often as it finds one; one that finds none stands once."""
    index = matched.indexed.index
    ids = np.sort(rows.ids(0, rows.count))
    numbers = matched.numbers[ids].astype(np.int64)
    times = np.append(index.counts, [1, 1])[numbers]
    count = int(times.sum())
    if count > MOST_ROWS:
        raise ListError(
            f"every match makes {count:,} rows of {rows.count:,}, and at most {MOST_ROWS:,} are made",
            mend=Mend("keep fewer rows above, or take the first match"),
        )
    copied = np.repeat(ids, times).astype(np.uint32)
    copies = TableOfCopies(frame.table, copied)
    starts = np.append(index.begins[:-1], [0, 0])[numbers]
    places = np.repeat(starts - np.cumsum(times) + times, times) + np.arange(count)
    gone = np.repeat(numbers >= matched.nothing, times)
    found = np.where(gone, len(matched.indexed.window), np.append(index.rows, 0)[np.where(gone, 0, places)])
    left = RowSet(count)
    if rows.places is not None:
        left = ordered(np.argsort(rows.places[copied], kind="stable"), count)
    return Worked(left, table=copies, members=rows, known=_known(body, matched, found.astype(np.uint32), copies))


def _known(
    body: BoundBring, matched: Matched, found: Array, copies: TableOfCopies
) -> tuple[tuple[b.BoundValue, b.BoundValue], ...]:
    known = []
    every = np.arange(len(matched.indexed.window))
    for column in body.brought:
        brought = unwrapped(column.value)
        assert isinstance(brought, Brought)
        known.append((brought, values_there(brought, matched, every, found, copies.fingerprint)))
    return tuple(known)


def _reason(body: BoundBring, window: Scatter) -> str:
    return f"{'no' if body.only is Only.MATCHED else 'a'} match in {body.matching.other.said}"


BRING = Work(_run, _reason)

"""The lines at the head of a cut that a server can carry out on its own rows, and what is left to be done here."""

from __future__ import annotations

import re
from collections.abc import Sequence

from yardcut.core.language.meaning.bound import BoundBody
from yardcut.core.language.verbs.columns import BoundColumns
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.scanning.plan_parts import looks_at_other_rows
from yardcut.core.sql.drawing_there import drawn, is_by_rank
from yardcut.core.sql.expression_texts import NotSaidError, not_said
from yardcut.core.sql.rows_there import RowsThere
from yardcut.core.sql.strata_there import Ask
from yardcut.core.sql.tallying_there import tallied

_NEEDS_PLACES = re.compile(r"\b(seed|random|chance|weighted|stratified|part|source_row)\b", re.IGNORECASE)
"""Words of lines that look at the place of a row among all of the source: a text that holds one is taken for it too."""
_AS_READ = re.compile(r"\bas\s+read\b", re.IGNORECASE)
_SAME_AGAIN = ("first", "last", "top", "bottom")
"""Draws that take all of what they took."""


@dataclass(frozen=True, slots=True)
class LinesThere:
    """What a server does: the rows it leaves, and the places of the lines that took any there (``sent``).

    Of the lines before ``end`` those in ``off`` are not for here; the others take no row of what comes, and put it in
    the same order again. ``why`` says why no more lines were sent, "" where all were or nothing is in the way.
    """

    rows: RowsThere
    sent: tuple[int, ...] = ()
    end: int = 0
    off: frozenset[int] = frozenset()
    why: str = ""


def are_numbers_needed(lines: Sequence[BoundLine]) -> bool:
    """Tell whether a line may be sent that goes by the places of rows in the source."""
    bodies = [line.bound.body for line in lines if line.bound is not None]
    return any(isinstance(body, BoundDraw) and is_by_rank(body.draw) for body in bodies)


def lines_there(lines: Sequence[BoundLine], source: RowsThere, ask: Ask) -> LinesThere:
    """Return what a server can do of some lines so that the rows are the same in the end; it may be asked for groups.

    Raises ``psycopg.Error`` then.
    """
    after, why = _as_far_as_said(lines, source, ask)
    for place in reversed(after):
        rows, sent = after[place].filtered(), tuple(each for each in after if each <= place)
        off = _not_here(lines, place + 1, sent)
        texts = [line.line.text for at, line in enumerate(lines) if at not in off and at not in sent and not line.off]
        by_place = not rows.is_whole and any(map(_NEEDS_PLACES.search, texts))
        if not by_place and not (rows.arranged != rows.as_read and rows.arranged and any(map(_AS_READ.search, texts))):
            return LinesThere(rows, sent, place + 1, off, why)
        why = "a draw by a seed, or a row's number, needs the places of all rows"
    return LinesThere(source, why=why)


def _as_far_as_said(lines: Sequence[BoundLine], source: RowsThere, ask: Ask) -> tuple[dict[int, RowsThere], str]:
    """Return the rows behind each line that takes some, as far as SQL says it, and why no further."""
    rows, after = source, dict[int, RowsThere]()
    for place, line in enumerate(lines):
        if line.off:
            continue
        if line.error is not None or line.bound is None:
            break
        body = line.bound.body
        try:
            found = _behind(rows, body, place, ask)
        except NotSaidError as error:
            return after, f"line {place + 1} ran here: {error.message}"
        if found is None:
            break
        rows = found
        if isinstance(body, BoundFilter | BoundDraw | BoundTally):
            after[place] = rows
    return after, ""


def _behind(rows: RowsThere, body: BoundBody, place: int, ask: Ask) -> RowsThere | None:
    """Return the rows that a line leaves, ``None`` where it is of a kind that runs here. Raises ``NotSaidError``."""
    match body:
        case BoundFilter():
            return rows.kept(body, place)
        case BoundDraw():
            return drawn(rows, body, place, ask)
        case BoundTally():
            return tallied(rows, body, place)
        case BoundOrder() | BoundMake() | BoundColumns():
            if looks_at_other_rows(body):
                raise not_said("this line", "what it makes goes by all rows that reach it")
            return rows.put_in_order(body) if isinstance(body, BoundOrder) else rows
        case _:
            return None


def _not_here(lines: Sequence[BoundLine], end: int, sent: Sequence[int]) -> frozenset[int]:
    """Return which of the first lines must not run here: what is above a tally, and what would take or order anew."""
    bodies = {
        place: line.bound.body for place, line in enumerate(lines[:end]) if line.bound is not None and not line.off
    }
    tally = max((place for place in sent if isinstance(bodies[place], BoundTally)), default=-1)
    arranged = max((place for place in sent if _is_arranged(bodies[place])), default=-1)
    return frozenset(
        place
        for place, body in bodies.items()
        if place <= tally
        or (isinstance(body, BoundOrder) and place <= arranged)
        or (isinstance(body, BoundDraw) and (place <= arranged or not _is_same_again(body)))
    )


def _is_arranged(body: BoundBody) -> bool:
    """Tell whether a draw leaves its rows group by group."""
    return isinstance(body, BoundDraw) and bool(body.keys and body.groups) and not body.draw.remainder


def _is_same_again(body: BoundDraw) -> bool:
    return body.draw.form in _SAME_AGAIN and not body.draw.amount.percent and not body.draw.remainder

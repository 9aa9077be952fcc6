"""Draws that a server carries out: the very rows that are drawn here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from yardcut.core.language.verbs.draw_parts import BoundDraw, Draw
from yardcut.core.ranking.drawing.draw_notes import chance_note, passed_over_notes, short_notes, tie_notes
from yardcut.core.sql.counts_there import OWN_NAME, SentLine
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.sql.draw_texts import RankedDraw, ranked_draw
from yardcut.core.sql.expression_texts import NotSaidError, not_said
from yardcut.core.sql.few_rows_there import BY_NUMBER, are_few_groups, few_rows, few_rows_of_groups, takes_few
from yardcut.core.sql.order_texts import SortedBy
from yardcut.core.sql.rank_texts import below_chance, with_ranks
from yardcut.core.sql.rows_there import NUMBER, Counted, RowsThere
from yardcut.core.sql.strata_there import Ask, drawn_by_sizes, goes_by_sizes, group_of


def is_by_rank(draw: Draw) -> bool:
    """Tell whether a server can carry out a draw by a seed: by the ranks of the rows alone."""
    return draw.is_by_chance and draw.weight is None and not draw.with_replacement


def drawn(rows: RowsThere, body: BoundDraw, place: int, ask: Ask) -> RowsThere:
    """Return the rows that a draw takes. Raises ``NotSaidError``, and ``psycopg.Error`` where something is asked."""
    draw, rows, name = body.draw, rows.filtered(), f"{OWN_NAME}line {place}"
    if not rows.as_read:
        raise not_said("a draw", "rows without a key stand in no order there; a line below the source names one")
    if is_by_rank(draw) and not rows.is_numbered:
        raise not_said("a draw by a seed", "these rows have no places in a source")
    if draw.is_by_chance and not is_by_rank(draw):
        raise not_said(f"draw {draw.form}", "it goes by more than the ranks of the rows")
    rank = f"{name} rank" if is_by_rank(draw) else ""
    ranked = with_ranks(rows.statement, quoted_name(NUMBER), draw.seed or 0, rank) if rank else rows.statement
    if rank and draw.form != "chance" and (body.groups or goes_by_sizes(draw)):
        try:
            return drawn_by_sizes(rows, ranked, rank, body, place, ask)
        except NotSaidError:
            if goes_by_sizes(draw):
                raise
    if draw.form == "chance":
        below = below_chance(quoted_name(rank), draw)
        taken = RankedDraw((), f"(NOT {below})" if draw.remainder else below)
    elif takes_few(body) and not body.groups:
        return few_rows(rows, ranked, body, name, place, rank, _told(body))
    elif takes_few(body) and not rank and are_few_groups(rows, body, ask):
        return few_rows_of_groups(rows, body, name, place, _told(body))
    else:
        taken = ranked_draw(body, rows.writer, rows.order, mark=f" {place}", rank=rank)
    return _taken(rows, ranked, body, taken, place)


def _taken(rows: RowsThere, ranked: str, body: BoundDraw, taken: RankedDraw, place: int) -> RowsThere:
    """Return the rows that a draw takes, each told from the others by what stands beside it."""
    draw, name = body.draw, f"{OWN_NAME}line {place}"
    inner = f"SELECT {', '.join(['*', *taken.beside])} FROM (\n{ranked}\n) AS there"
    order = taken.by if body.keys and not draw.remainder else rows.order
    by_group = bool(body.keys and body.groups and not draw.remainder)
    statement, tables = f"SELECT * FROM {quoted_name(name)} WHERE {taken.taken}", [_table(name, inner)]
    if by_group:
        first = quoted_name(f"{name} first")
        tables.append(_table(f"{name} groups", _groups(rows, body, name, first)))
        groups, group = quoted_name(f"{name} groups"), quoted_name(f"{name} group")
        statement = (
            f"SELECT * FROM (\n{statement}\n) AS there JOIN {groups} ON {group_of(rows.writer, body.groups)} = {group}"
        )
        order = (SortedBy(first), *taken.by)
    return replace(
        rows, tables=(*rows.tables, *tables), order=order, is_whole=False, statement=statement,
        arranged=order if by_group else rows.arranged,
        counted=(*rows.counted, _of_a_draw(body, taken, name, place)),
    )  # fmt: skip


def _table(name: str, statement: str) -> str:
    return f"{quoted_name(name)} AS (\n{statement}\n)"


def _groups(rows: RowsThere, body: BoundDraw, name: str, first: str) -> str:
    """Return the groups, each with the place of its first row that has a value to be ranked by: they come in order."""
    placed, at = rows.placed(f"{name} at")
    value = rows.writer.value(body.keys[0].value)
    told = f"{group_of(rows.writer, body.groups)} AS {quoted_name(f'{name} group')}, MIN({at}) AS {first}"
    return f"SELECT {told} FROM (\n{placed}\n) AS there WHERE {value} IS NOT NULL GROUP BY 1"


def _of_a_draw(body: BoundDraw, drawn: RankedDraw, name: str, place: int) -> Counted:
    """Return what counts the rows of a draw: those that reach it, that it takes, that have no value, that tie."""
    without = f"NOT {drawn.has_value}" if drawn.has_value else "FALSE"
    counts = [f"COUNT(*) FILTER (WHERE {each})" for each in (drawn.taken, without, drawn.tied or "FALSE")]
    return Counted(f"SELECT COUNT(*), {', '.join(counts)} FROM {quoted_name(name)}", (place,), _told(body))


def _told(body: BoundDraw) -> Callable[[Sequence[int]], list[SentLine]]:
    """Return what says of counts what a draw did."""
    draw = body.draw
    asked = int(draw.amount.written) if draw.form in BY_NUMBER and not draw.amount.percent and not body.groups else 0

    def told(found: Sequence[int]) -> list[SentLine]:
        there, taken, unknown, equal = found
        notes = passed_over_notes(unknown, body.keys[0].text) if body.keys else []
        notes += tie_notes(draw.with_ties, equal)
        if there > unknown:
            notes += short_notes(there - unknown, asked)
        if draw.form == "chance":
            notes = [chance_note(draw, there)]
        elif draw.is_by_chance and there:
            notes.append(f"seed {draw.seed}")
        return [SentLine(there, taken, 0 if draw.remainder else unknown, tuple(notes))]

    return told

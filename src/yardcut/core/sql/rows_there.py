"""Rows on a server, as the lines of a cut leave them one after the other: a statement that gives them, and counts."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.ranking.drawing.draw_notes import chance_note, passed_over_notes, short_notes, tie_notes
from yardcut.core.sql.counts_there import OWN_NAME, Condition, SentLine, counting, not_looked_up, sent_lines
from yardcut.core.sql.dialects import DIALECTS, quoted_name
from yardcut.core.sql.draw_texts import RankedDraw, ranked_draw
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.order_texts import SortedBy, order_in_sql, ordered_by
from yardcut.core.sql.rank_texts import below_chance, with_ranks
from yardcut.core.sql.tally_texts import tally_text
from yardcut.core.values.kinds import Kind

_BY_NUMBER = ("first", "last", "top", "bottom", "random")
"""Draws that take so many rows."""
NUMBER = f"{OWN_NAME}number"
"""The column with each row's place in the source, from 0, where a line goes by it."""


@dataclass(frozen=True, slots=True)
class Counted:
    """A statement that gives one row of counts, and what these tell of some lines, by their places in the cut."""

    statement: str
    places: tuple[int, ...]
    told: Callable[[Sequence[int]], list[SentLine]]


@dataclass(frozen=True, slots=True)
class RowsThere:
    """Rows that stand on a server.

    ``statement`` gives them in any order, made from ``tables`` before it. ``columns`` are the names of columns by their
    numbers. ``as_read`` is the order of the table they are rows of, () where it has none; ``order`` is that in which
    the lines left them, and ``arranged`` the order they have to come in, where lines here could not give it to them
    again. ``conditions`` are those at the end that are not in ``statement`` yet, each with its line. Rows that a tally
    made (``is_tally``) are a table of their own, which ``is_whole`` as long as no line took any of them.
    """

    statement: str
    columns: Mapping[int, str]
    as_read: tuple[SortedBy, ...]
    order: tuple[SortedBy, ...]
    is_numbered: bool = False
    arranged: tuple[SortedBy, ...] = ()
    is_tally: bool = False
    is_whole: bool = True
    tables: tuple[str, ...] = ()
    counted: tuple[Counted, ...] = ()
    conditions: tuple[tuple[Condition, int], ...] = ()

    @property
    def _writer(self) -> Writer:
        return Writer(DIALECTS["postgresql"], self.columns, {}, not_looked_up)

    def with_tables(self, statement: str) -> str:
        """Return a statement with the tables before it that it is made from."""
        return f"WITH {', '.join(self.tables)}\n{statement}" if self.tables else statement

    def filtered(self) -> RowsThere:
        """Return the same rows with the last conditions in their statement."""
        if not self.conditions:
            return self
        conditions = [condition for condition, _ in self.conditions]
        where = " AND ".join(f"{said} IS {'NOT ' if drops else ''}TRUE" for said, drops in conditions)
        counted = Counted(
            counting(self.statement, conditions), tuple(place for _, place in self.conditions), sent_lines
        )
        statement = f"SELECT * FROM (\n{self.statement}\n) AS there WHERE {where}"
        return replace(self, statement=statement, counted=(*self.counted, counted), conditions=())

    def kept(self, body: BoundFilter, place: int) -> RowsThere:
        """Return the rows that a keep or drop leaves; all where it says nothing. Raises ``NotSaidError``."""
        # without a condition it takes nothing
        condition = str(not body.drops).upper(), body.drops
        if body.condition is not None:
            condition = self._writer.condition(body.condition), body.drops
        return replace(self, conditions=(*self.conditions, (condition, place)), is_whole=False)

    def put_in_order(self, body: BoundOrder) -> RowsThere:
        """Return the rows in another order. Raises ``NotSaidError``."""
        if body.seed is not None or (not body.keys and self.arranged not in ((), self.as_read)):
            raise not_said("this order", "it goes by the places of all rows")
        return replace(self, order=(*order_in_sql(body.keys, self._writer), *self.order) if body.keys else self.as_read)

    def drawn(self, body: BoundDraw, place: int) -> RowsThere:
        """Return the rows that a draw takes. Raises ``NotSaidError``."""
        draw, rows, name = body.draw, self.filtered(), f"{OWN_NAME}line {place}"
        if not self.as_read:
            raise not_said("a draw", "rows without a key stand in no order there; a line below the source names one")
        by_rank = draw.form in ("random", "chance") and body.weight is None and not draw.with_replacement
        rank = quoted_name(f"{name} rank") if by_rank else ""
        if by_rank and not self.is_numbered:
            raise not_said("a draw by a seed", "these rows have no places in a source")
        ranked = with_ranks(rows.statement, quoted_name(NUMBER), draw.seed or 0, f"{name} rank") if rank else ""
        if draw.form == "chance":
            below = below_chance(rank, draw)
            drawn = RankedDraw((), f"(NOT {below})" if draw.remainder else below)
        else:
            drawn = ranked_draw(body, self._writer, rows.order, mark=f" {place}", rank=rank)
        inner = f"SELECT {', '.join(['*', *drawn.beside])} FROM (\n{ranked or rows.statement}\n) AS there"
        by_group = bool(body.keys and body.groups and not draw.remainder)
        order = drawn.by if body.keys and not draw.remainder else rows.order
        if by_group:  # group by group, as a row of each that has a value to be ranked by comes first
            within = ", ".join(map(self._writer.value, body.groups))
            first, at = quoted_name(f"{name} first"), quoted_name(f"{name} at")
            inner = (
                f"SELECT *, ROW_NUMBER() OVER (ORDER BY {ordered_by(rows.order)}) AS {at} FROM (\n{inner}\n) AS there"
            )
            here = f"MIN({at}) FILTER (WHERE {drawn.has_value}) OVER (PARTITION BY {within})"
            inner = f"SELECT *, {here} AS {first} FROM (\n{inner}\n) AS there"
            order = (SortedBy(first), *drawn.by)
        table, arranged = f"{quoted_name(name)} AS (\n{inner}\n)", order if by_group else rows.arranged
        return replace(
            rows, tables=(*rows.tables, table), order=order, arranged=arranged, is_whole=False,
            statement=f"SELECT * FROM {quoted_name(name)} WHERE {drawn.taken}",
            counted=(*rows.counted, _of_a_draw(body, drawn, name, place)),
        )  # fmt: skip

    def tallied(self, body: BoundTally, place: int) -> RowsThere:
        """Return what the rows come to, where that is exact there. Raises ``NotSaidError``."""
        rows, name, writer = self.filtered(), f"{OWN_NAME}line {place}", self._writer
        if body.groups and not self.as_read:
            raise not_said("a tally", "rows without a key stand in no order there, and so its groups in none")
        tally = tally_text(
            body, writer, lambda each: _exact(each, writer), lambda each: _typed(writer.value(each), each.kind)
        )
        if any(each.startswith(OWN_NAME) for each in tally.names):
            raise not_said("this name", "columns of the statement are called so")
        at, first, there = (quoted_name(f"{name} {word}") for word in ("at", "first", "rows"))
        order = f" OVER (ORDER BY {ordered_by(rows.order)})" if rows.order else " OVER ()"
        inner = f"SELECT *, ROW_NUMBER(){order} AS {at} FROM (\n{rows.statement}\n) AS there"
        beside = f"MIN({at}) AS {first}, COUNT(*) AS {there}"
        told = f"SELECT {', '.join(tally.told)}, {beside} FROM (\n{inner}\n) AS there{tally.by}"
        text = f"SELECT {', '.join(tally.shown)}, {first}, {there} FROM (\n{told}\n) AS there"
        counted = Counted(
            f"SELECT CAST(COALESCE(SUM({there}), 0) AS bigint), COUNT(*) FROM {quoted_name(name)}", (place,),
            lambda counts: [SentLine(counts[0], counts[1], 0)],
        )  # fmt: skip
        as_read = (SortedBy(first),)
        return RowsThere(
            f"SELECT * FROM {quoted_name(name)}", dict(enumerate(tally.names)), as_read, as_read, arranged=as_read,
            is_tally=True, tables=(*rows.tables, f"{quoted_name(name)} AS (\n{text}\n)"),
            counted=(*rows.counted, counted),
        )  # fmt: skip


def _of_a_draw(body: BoundDraw, drawn: RankedDraw, name: str, place: int) -> Counted:
    """Return what counts the rows of a draw: those that reach it, that it takes, that have no value, that tie."""
    draw = body.draw
    without = f"NOT {drawn.has_value}" if drawn.has_value else "FALSE"
    counts = [f"COUNT(*) FILTER (WHERE {each})" for each in (drawn.taken, without, drawn.tied or "FALSE")]
    asked = int(draw.amount.written) if draw.form in _BY_NUMBER and not draw.amount.percent and not body.groups else 0

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

    return Counted(f"SELECT COUNT(*), {', '.join(counts)} FROM {quoted_name(name)}", (place,), told)


def _exact(aggregate: b.Aggregate, writer: Writer) -> str:
    """Write an aggregate that comes to the same there, bit for bit. Raises ``NotSaidError``."""
    is_exact = aggregate.function in ("COUNT", "COUNT DISTINCT", "MIN", "MAX")
    if not is_exact and not (aggregate.function == "SUM" and aggregate.kind is Kind.INTEGER):
        raise not_said(aggregate.function, "it is exact here and rounded once, and there it is not")
    return _typed(writer.aggregate(aggregate), aggregate.kind)


def _typed(said: str, kind: Kind) -> str:
    """Write a value in the type of its kind, and so that numbers have one zero."""
    typed = f"CAST({said} AS {DIALECTS['postgresql'].types[kind]})"
    return f"({typed} + 0)" if kind is Kind.NUMBER else typed

"""Draws of the first rows of an order by a server, of all rows or of each of a few groups: none has to be sorted whole.

For a few groups a server goes over the rows once for each, and keeps the best as it goes: with four million rows of
five groups a third of the time that ranking all of them takes.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.sql.counts_there import OWN_NAME, SentLine
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.sql.draw_texts import draw_order, grouped_by
from yardcut.core.sql.order_texts import SortedBy, ordered_by
from yardcut.core.sql.rows_there import Counted, RowsThere
from yardcut.core.sql.strata_there import Ask

Told = Callable[[Sequence[int]], list[SentLine]]
"""Makes of the counts of a draw (there, taken, without a value, tied) what it did."""

BY_NUMBER = ("first", "last", "top", "bottom", "random")
"""Draws that take so many rows."""
_FEW_GROUPS = 12


def takes_few(body: BoundDraw) -> bool:
    """Tell whether a draw takes the first rows of one order, or of an order within each group."""
    draw = body.draw
    return draw.form in BY_NUMBER and not (draw.amount.percent or draw.with_ties or draw.remainder)


def are_few_groups(rows: RowsThere, body: BoundDraw, ask: Ask) -> bool:
    """Ask whether rows have so few groups that going over them once for each is worth it. Raises ``psycopg.Error``."""
    values = ", ".join(grouped_by(rows.writer, body.groups))
    groups = f"SELECT {values} FROM (\n{rows.statement}\n) AS there GROUP BY {values} LIMIT {_FEW_GROUPS + 1}"
    return int(ask(rows.with_tables(f"SELECT COUNT(*) FROM (\n{groups}\n) AS there"))[0][0]) <= _FEW_GROUPS


def few_rows(rows: RowsThere, ranked: str, body: BoundDraw, name: str, place: int, rank: str, told: Told) -> RowsThere:
    """Return the first rows of an order, and what counts them: all of them, those without a value, those that tie."""
    draw, table = body.draw, quoted_name(name)
    keys, by = draw_order(body, rows.writer, rows.order, rank)
    bare = _bare(rows, keys)
    few = _best(ranked, f" WHERE {bare} IS NOT NULL" if keys else "", body, by)
    counting = f"SELECT COUNT(*), LEAST(COUNT(*), {draw.amount.written}), 0, 0 FROM (\n{rows.statement}\n) AS there"
    if keys:
        turned = ordered_by([each.turned() for each in by])
        edge = [f"(SELECT {key.said} FROM {table} ORDER BY {turned} LIMIT 1)" for key in keys]
        equal = " AND ".join(f"{key.said} IS NOT DISTINCT FROM {last}" for key, last in zip(keys, edge, strict=True))
        tied = f"COUNT(*) FILTER (WHERE {bare} IS NOT NULL AND {equal})"
        there = f"SELECT COUNT(*), COUNT(*) - COUNT({bare}), {tied} FROM (\n{rows.statement}\n) AS there"
        taken = f"SELECT COUNT(*), COUNT(*) FILTER (WHERE {equal}) FROM {table}"
        counting = f"SELECT a.n, b.n, a.w, a.t - b.t FROM (\n{there}\n) AS a (n, w, t), (\n{taken}\n) AS b (n, t)"
    return replace(
        rows, tables=(*rows.tables, f"{table} AS (\n{few}\n)"), order=tuple(by) if keys else rows.order,
        statement=f"SELECT * FROM {table}", is_whole=False,
        counted=(*rows.counted, Counted(counting, (place,), told)),
    )  # fmt: skip


def few_rows_of_groups(rows: RowsThere, body: BoundDraw, name: str, place: int, told: Told) -> RowsThere:
    """Return the first rows of each group, group by group where they are ranked by keys, and what counts them."""
    table, groups, first = quoted_name(name), quoted_name(f"{name} groups"), quoted_name(f"{name} first")
    keys, by = draw_order(body, rows.writer, rows.order)
    bare, values = _bare(rows, keys), grouped_by(rows.writer, body.groups)
    named = [quoted_name(f"{name} group {number}") for number in range(len(values))]
    # by rank groups come in the order in which they appear, and otherwise each row stays where it is
    placed, at = rows.placed(f"{name} at") if keys else (rows.statement, "0")
    told_of = [f"{value} AS {group}" for value, group in zip(values, named, strict=True)]
    has_value = f" FILTER (WHERE {bare} IS NOT NULL)" if keys else ""
    met = f"COUNT(*) AS there, COUNT(*){has_value} AS valued, MIN({at}){has_value} AS {first}"
    by_group = ", ".join(str(number + 1) for number in range(len(values)))
    every = f"SELECT {', '.join([*told_of, met])} FROM (\n{placed}\n) AS there GROUP BY {by_group}"
    is_of = _same(values, [f"g.{each}" for each in named])
    few = _best(rows.statement, f" WHERE {is_of}{f' AND {bare} IS NOT NULL' if keys else ''}", body, by)
    tables = (
        f"{groups} AS (\n{every}\n)",
        f"{table} AS (\nSELECT few.*, g.{first} FROM {groups} AS g CROSS JOIN LATERAL (\n{few}\n) AS few\n)",
    )
    order = (SortedBy(first), *by) if keys else rows.order
    return replace(
        rows, tables=(*rows.tables, *tables), order=order, arranged=order if keys else rows.arranged,
        statement=f"SELECT * FROM {table}", is_whole=False,
        counted=(*rows.counted, Counted(_counting(rows, keys, by, values, table, groups), (place,), told)),
    )  # fmt: skip


def _counting(
    rows: RowsThere, keys: Sequence[SortedBy], by: Sequence[SortedBy], values: Sequence[str], table: str, groups: str
) -> str:
    """Return what counts the rows there, those taken, without a value, and equal to the last of their group."""
    tied = "0"
    if keys:
        said = [*values, *(key.said for key in keys)]
        names = [quoted_name(f"edge {number}") for number in range(len(said))]
        last = f"ROW_NUMBER() OVER (PARTITION BY {', '.join(values)} ORDER BY {ordered_by([e.turned() for e in by])})"
        edges = ", ".join(f"{each} AS {name}" for each, name in zip(said, names, strict=True))
        turn = quoted_name(f"{OWN_NAME}turn")
        edge = f"SELECT {edges} FROM (SELECT *, {last} AS {turn} FROM {table}) AS there WHERE {turn} = 1"
        equal = f"JOIN (\n{edge}\n) AS e ON {_same(said, [f'e.{name}' for name in names])}"
        there = f"(SELECT COUNT(*) FROM (\n{rows.statement}\n) AS there {equal})"
        tied = f"{there} - (SELECT COUNT(*) FROM {table} AS there {equal})"
    met = "CAST(COALESCE(SUM(there), 0) AS bigint)"
    unvalued = "CAST(COALESCE(SUM(there - valued), 0) AS bigint)"
    return f"SELECT {met}, (SELECT COUNT(*) FROM {table}), {unvalued}, {tied} FROM {groups}"


def _best(rows: str, where: str, body: BoundDraw, by: Sequence[SortedBy]) -> str:
    best = [each.turned() for each in by] if body.draw.form == "last" else by
    return f"SELECT * FROM (\n{rows}\n) AS there{where} ORDER BY {ordered_by(best)} LIMIT {body.draw.amount.written}"


def _bare(rows: RowsThere, keys: Sequence[SortedBy]) -> str:
    return keys[0].said.removesuffix(rows.writer.dialect.code_points) if keys else ""


def _same(values: Sequence[str], others: Sequence[str]) -> str:
    """Return the condition that values are those others; missing ones are equal."""
    pairs = zip(values, others, strict=True)
    return " AND ".join(f"{value} IS NOT DISTINCT FROM {other}" for value, other in pairs)

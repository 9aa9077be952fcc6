"""Draws in SQL: what stands beside each row (its place, how many rows there are), and which of them are taken."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.verbs.draw_parts import BoundDraw, Draw
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.order_texts import SortedBy, keys_in_sql, ordered_by
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class RankedDraw:
    """A draw over the rows above it.

    ``beside`` are the columns to be put beside theirs, ``taken`` is the condition on those. ``by`` is the order of
    ranks, the best first. ``has_value`` is the condition that a row has a value to be ranked by, and ``tied`` that
    it is left out, or taken too, for being equal to the last one that is taken; "" where that means nothing.
    """

    beside: tuple[str, ...]
    taken: str
    by: tuple[SortedBy, ...] = ()
    has_value: str = ""
    tied: str = ""


def grouped_by(writer: Writer, groups: Sequence[BoundValue]) -> list[str]:
    """Write the values of groups; texts by code point, which is how a server compares them soonest."""
    return [f"{writer.value(each)}{writer.dialect.code_points if each.kind is Kind.TEXT else ''}" for each in groups]


def draw_order(
    body: BoundDraw, writer: Writer, order: Sequence[SortedBy], rank: str = ""
) -> tuple[list[SortedBy], list[SortedBy]]:
    """Return the keys of a draw, and the whole order of its ranks, the best first. Raises ``NotSaidError``."""
    keys = keys_in_sql(body.keys, writer)
    if keys:
        keys[0] = SortedBy(keys[0].said, body.draw.form == "top", False)
    return keys, [*keys, *([SortedBy(quoted_name(rank))] if rank else []), *order]


def ranked_draw(
    body: BoundDraw, writer: Writer, order: Sequence[SortedBy], *, mark: str = "", rank: str = ""
) -> RankedDraw:
    """Return a draw over rows that stand in an order; ``mark`` tells its columns from those of other draws.

    ``rank`` is the column of the rows' ranks under its seed, where there is one. Raises ``NotSaidError``.
    """
    draw = body.draw
    if draw.is_by_chance and not rank:
        raise not_said(f"draw {draw.form}", "a seed gives other rows there")
    if draw.form == "from":
        raise not_said("draw from … to …", "it goes from row to row")
    keys, by = draw_order(body, writer, order, rank)
    if not by:
        raise not_said(f"draw {draw.form}", "the rows of a table have no order; put an order line above it")
    place, there, key, tied = (quoted_name(f"yardcut {word}{mark}") for word in ("place", "there", "key", "tied"))
    groups = grouped_by(writer, body.groups) if mark else [writer.value(group) for group in body.groups]
    within = f"PARTITION BY {', '.join(groups)} " if groups else ""
    numbers = f"ROW_NUMBER() OVER ({within}ORDER BY {ordered_by(by)})"
    equals = f"RANK() OVER ({within}ORDER BY {ordered_by(keys)})" if keys else numbers
    own, other = (equals, numbers) if draw.with_ties else (numbers, equals)
    beside = [f"{own} AS {place}"]
    if draw.amount.percent or draw.form == "last":
        beside.append(f"COUNT(*) OVER ({within.strip()}) AS {there}")
    taken = _taken(draw, place, there)
    if not keys:
        return RankedDraw(tuple(beside), f"(NOT {taken})" if draw.remainder else taken, tuple(by))
    bare = keys[0].said.removesuffix(writer.dialect.code_points)
    beside.append(f"{bare} IS NOT NULL AS {key}")
    taken, at_edge = f"({taken} AND {key})", ""
    if mark:
        beside.append(f"{other} AS {tied}")
        at_edge = f"({key} AND {_taken(draw, tied, there)} <> {_taken(draw, place, there)})"
    return RankedDraw(tuple(beside), f"(NOT {taken})" if draw.remainder else taken, tuple(by), key, at_edge)


def _taken(draw: Draw, place: str, there: str) -> str:
    written = draw.amount.written
    match draw.form:
        case "every":
            return f"({place} >= {draw.start} AND ({place} - {draw.start}) % {written} = 0)"
        case "rows":
            return f"({place} BETWEEN {draw.start} AND {draw.end})"
    if draw.amount.percent:
        if not written.isdigit() or draw.form in ("top", "bottom"):
            raise not_said("this percentage", "it is rounded otherwise there")
        written = f"(2 * {there} * {written} + 100) / 200"
    if draw.form == "last":  # counted from the end, so that equal rows stand as they do for first
        return f"({place} > {there} - {written})"
    return f"({place} <= {written})"

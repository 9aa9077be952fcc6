"""Tallies that a server works out, where they come to the same there, bit for bit."""

from __future__ import annotations

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.sql.counts_there import OWN_NAME, SentLine
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.order_texts import SortedBy
from yardcut.core.sql.rows_there import Counted, RowsThere, typed
from yardcut.core.sql.tally_texts import tally_text
from yardcut.core.values.kinds import Kind


def tallied(rows: RowsThere, body: BoundTally, place: int) -> RowsThere:
    """Return what the rows come to, where that is exact there. Raises ``NotSaidError``."""
    rows, name, writer = rows.filtered(), f"{OWN_NAME}line {place}", rows.writer
    if body.groups and not rows.as_read:
        raise not_said("a tally", "rows without a key stand in no order there, and so its groups in none")
    tally = tally_text(
        body, writer, lambda each: _exact(each, writer), lambda each: typed(writer.value(each), each.kind)
    )
    if any(each.startswith(OWN_NAME) for each in tally.names):
        raise not_said("this name", "columns of the statement are called so")
    first, there = f"{name} first", quoted_name(f"{name} rows")
    placed, at = rows.placed(f"{name} at")
    beside = f"MIN({at}) AS {quoted_name(first)}, COUNT(*) AS {there}"
    told = f"SELECT {', '.join(tally.told)}, {beside} FROM (\n{placed}\n) AS there{tally.by}"
    text = f"SELECT {', '.join(tally.shown)}, {quoted_name(first)}, {there} FROM (\n{told}\n) AS there"
    counted = Counted(
        f"SELECT CAST(COALESCE(SUM({there}), 0) AS bigint), COUNT(*) FROM {quoted_name(name)}", (place,),
        lambda counts: [SentLine(counts[0], counts[1], 0)],
    )  # fmt: skip
    as_read = (SortedBy(quoted_name(first)),)
    return RowsThere(
        f"SELECT * FROM {quoted_name(name)}", dict(enumerate(tally.names)), as_read, as_read, first, arranged=as_read,
        is_tally=True, tables=(*rows.tables, f"{quoted_name(name)} AS (\n{text}\n)"),
        counted=(*rows.counted, counted),
    )  # fmt: skip


def _exact(aggregate: b.Aggregate, writer: Writer) -> str:
    """Write an aggregate that comes to the same there, bit for bit. Raises ``NotSaidError``."""
    is_exact = aggregate.function in ("COUNT", "COUNT DISTINCT", "MIN", "MAX")
    if not is_exact and not (aggregate.function == "SUM" and aggregate.kind is Kind.INTEGER):
        raise not_said(aggregate.function, "it is exact here and rounded once, and there it is not")
    return typed(writer.aggregate(aggregate), aggregate.kind)

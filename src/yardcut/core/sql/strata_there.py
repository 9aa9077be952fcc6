"""Draws that give each group a number of its own, by a server: it tells the groups, here they get their numbers.

What is asked beforehand is asked in the transaction that carries out the cut, so that both are of the same rows.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from yardcut.core.errors import ListError
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.verbs.draw_parts import BoundDraw, Draw
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.drawn import Quotas
from yardcut.core.ranking.drawing.quotas import likely_limits, quotas_of, up_to_part
from yardcut.core.ranking.drawing.telling_strata import short_group_notes, strata_of
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.sql.counts_there import OWN_NAME, SentLine
from yardcut.core.sql.dialects import quoted_name, quoted_text
from yardcut.core.sql.draw_texts import grouped_by
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.rows_there import Counted, RowsThere, typed
from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import Kind

Ask = Callable[[str], Sequence[Sequence[Any]]]
"""Returns the rows that a statement gives. Raises ``psycopg.Error``."""

_MOST_STRATA, _MARGIN = 10_000, 40
"""More groups are not sent back with a number each; and how many more rows of each than it gives are looked for, since
nobody looks again."""
_VALUES = {
    Kind.TEXT: "{0}", Kind.INTEGER: "{0}", Kind.NUMBER: "{0}", Kind.BOOLEAN: "{0}",
    Kind.DATE: "({0} - DATE '1970-01-01')",
}  # fmt: skip
"""The values of groups as they are here: days as numbers. By other kinds of values a draw runs here."""


def goes_by_sizes(draw: Draw) -> bool:
    """Tell whether how many rows of a group are taken depends on how many each group has."""
    return draw.form in ("stratified", "part") or (draw.form == "random" and draw.amount.percent)


def group_of(writer: Writer, groups: Sequence[BoundValue]) -> str:
    """Write the group of a row as one text: values that are missing are equal to each other there."""
    return f"CAST(ROW({', '.join(typed(writer.value(each), each.kind) for each in groups)}) AS text)"


@dataclass(frozen=True, slots=True)
class Sizes:
    """The groups of some rows, each with its text there, and how many rows each is to give behind how many others."""

    groups: Groups
    texts: Sequence[str]
    before: Array
    quotas: Quotas

    def numbers(self) -> Iterator[tuple[str, int, int, int]]:
        """Yield of each group its text, how many rows stand before those it gives, their end, and a rank as a bigint.

        Beyond that rank none of them lies, but once in 10^20 draws. Then fewer rows come than were counted, which ends
        the run.
        """
        ends, counts = self.before + self.quotas.given, self.groups.counts
        more = (_MARGIN + 4 * np.sqrt(ends)).astype(np.int64)
        near = [limit - (1 << 63) for limit in likely_limits(np.minimum(ends + more, counts), counts).tolist()]
        yield from zip(self.texts, self.before.tolist(), ends.tolist(), near, strict=True)


def drawn_by_sizes(rows: RowsThere, ranked: str, rank: str, body: BoundDraw, place: int, ask: Ask) -> RowsThere:
    """Return the rows that such a draw takes of rows with ranks. Raises ``NotSaidError`` and ``psycopg.Error``."""
    name = f"{OWN_NAME}line {place}"
    sizes = _sizes(rows, body, name, ask)
    at, quotas = quoted_name(f"{name} at"), quoted_name(f"{name} quotas")
    writer, group = rows.writer, quoted_name(f"{name} group")
    low, high, reach = (quoted_name(f"{name} {word}") for word in ("low", "high", "reach"))
    within = ", ".join(grouped_by(writer, body.groups))
    beside = f"ROW_NUMBER() OVER ({f'PARTITION BY {within} ' if within else ''}ORDER BY {quoted_name(rank)}) AS {at}"
    taken = f"({at} > {low} AND {at} <= {high})"
    listed = ", ".join(f"({quoted_text(text)}, {first}, {end}, {last})" for text, first, end, last in sizes.numbers())
    of_group = f"JOIN {quotas} ON {group_of(writer, body.groups)} = {group}"
    near = "" if body.draw.remainder else f" WHERE {quoted_name(rank)} <= {reach}"
    tables = (
        f"{quotas} ({group}, {low}, {high}, {reach}) AS (VALUES {listed or '(CAST(NULL AS text), 0, 0, 0)'})",
        f"{quoted_name(name)} AS (\nSELECT *, {beside} FROM (\n{ranked}\n) AS there {of_group}{near}\n)",
    )
    statement = f"SELECT * FROM {quoted_name(name)} WHERE {'NOT ' if body.draw.remainder else ''}{taken}"
    return replace(
        rows, tables=(*rows.tables, *tables), statement=statement, is_whole=False,
        counted=(*rows.counted, _counted(body, sizes, place)),
    )  # fmt: skip


def _sizes(rows: RowsThere, body: BoundDraw, name: str, ask: Ask) -> Sizes:
    """Ask for the groups, and work out what each gives. Raises ``NotSaidError`` and ``psycopg.Error``."""
    writer = rows.writer
    if any(each.kind not in _VALUES for each in body.groups):
        raise not_said(f"draw {body.draw.form}", "groups by such a value get their numbers here")
    placed, at = rows.placed(f"{name} at")
    values = [_VALUES[each.kind].format(typed(writer.value(each), each.kind)) for each in body.groups]
    numbers = "".join(f", {1 + number}" for number in range(1, len(values) + 1))
    told = ", ".join([group_of(writer, body.groups), *values, "COUNT(*)", f"MIN({at})"])
    by = f"GROUP BY 1{numbers} ORDER BY MIN({at}) LIMIT {_MOST_STRATA + 1}"
    asked = f"SELECT {told} FROM (\n{placed}\n) AS there {by}"
    found = ask(rows.with_tables(asked))
    if len(found) > _MOST_STRATA:
        raise not_said(f"draw {body.draw.form}", f"there are more than {_MOST_STRATA:,} groups")
    groups = Groups([tuple(each[1:-2]) for each in found], np.array([each[-2] for each in found], dtype=np.int64))
    try:
        quotas = quotas_of(body, groups)
    except ListError as error:  # it is told here, with its place
        raise not_said(f"draw {body.draw.form}", error.message) from error
    before = np.zeros(len(found), dtype=np.int64)
    if body.draw.form == "part":
        before = up_to_part(body, groups, int(body.draw.amount.written) - 1)
        quotas = Quotas(quotas.asked - before, quotas.given - before)
    return Sizes(groups, [each[0] for each in found], before, quotas)


def _counted(body: BoundDraw, sizes: Sizes, place: int) -> Counted:
    """Return what is known of the draw: no rows have to be counted for it any more."""
    there, taken = int(sizes.groups.counts.sum()), sizes.quotas.given
    left = sizes.groups.counts - taken if body.draw.remainder else taken
    notes = (*short_group_notes(body, sizes.groups, sizes.quotas), f"seed {body.draw.seed}") if there else ()
    labels = tuple(each.label for each in strata_of(body, sizes.groups, sizes.quotas, left))
    line = SentLine(there, int(left.sum()), 0, notes, labels)
    return Counted(f"SELECT {line.rows_in}, {line.rows_out}", (place,), lambda counts: [line])

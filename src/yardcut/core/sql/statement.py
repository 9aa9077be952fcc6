"""A cut as one statement: each line that takes rows is a table of its own, made from the one above."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field, replace

from yardcut.core.errors import ListError
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.meaning.bound_second import Brought, OtherRows
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, line_number
from yardcut.core.sql.dialects import DIALECTS, Dialect, quoted_name
from yardcut.core.sql.draw_texts import ranked_draw
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.order_texts import SortedBy, order_in_sql, ordered_by
from yardcut.core.sql.second_texts import brought_text, listed_text
from yardcut.core.sql.tally_texts import tally_text
from yardcut.core.table.stored_table import Table

_BEYOND = 1 << 20
"""Brought columns are numbered far behind those of any table."""


@dataclass(slots=True)
class _Statement:
    """The tables so far; ``order`` is that of the last one, ``notes`` what a reader must know.

    ``cuts`` are the names of all cuts; ``reached`` the tables that reach lines, by the numbers these have in the list.
    """

    dialect: Dialect
    table: str
    columns: dict[int, str]
    last: str
    cuts: Sequence[str]
    source: dict[int, str]
    parts: list[str] = field(default_factory=list)
    order: list[SortedBy] = field(default_factory=list)
    reached: dict[int, str] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    brought: dict[Brought, str] = field(default_factory=dict)

    @property
    def writer(self) -> Writer:
        return Writer(self.dialect, self.columns, self.reached, self._looked_up)

    def _looked_up(self, value: b.SecondValue) -> str:
        if isinstance(value, Brought):
            return quoted_name(self.brought[value])
        within = Writer(self.dialect, self.columns, self.reached, self._looked_up, quoted_name(self.last))
        return listed_text(value.matching, within, self._there)

    def _there(self, other: OtherRows) -> tuple[str, Writer]:
        """Return the name of a second table in the statement; the tables of a cut are put before what comes now."""
        if other.table is not None:
            columns = {number: column.name for number, column in enumerate(other.table.columns)}
            self.notes.append(f"{other.said} is the table {quoted_name(other.name)} there")
            return other.name, Writer(self.dialect, columns, self.reached, of="other_rows")
        kept = self.last, self.columns, self.order
        self.last, self.columns = self.table, self.source
        self.lines(other.lines, self.cuts.index(other.name))
        found = self.last, Writer(self.dialect, self.columns, self.reached, self._looked_up, "other_rows")
        self.last, self.columns, self.order = kept
        return found

    def add(self, text: str) -> None:
        """Add a table made from the last one."""
        name = f"line {len(self.parts) + 1}"
        self.parts.append(f"{quoted_name(name)} AS (\n  {text}\n)")
        self.last = name

    def lines(self, lines: Sequence[BoundLine], cut: int) -> None:
        """Add all lines of a cut of the list."""
        for number, line in enumerate(lines):
            self.reached[line_number(cut, number)] = self.last
            body = line.bound.body if line.bound is not None else None
            try:
                self._line(body)
            except ListError as error:
                raise error.in_statement(line.line.text) from None

    def _line(self, body: b.BoundBody | None) -> None:
        match body:
            case BoundFilter(condition, drops) if condition is not None:
                said = self.writer.condition(condition)
                self.add(f"SELECT * FROM {quoted_name(self.last)} WHERE {said}{' IS NOT TRUE' if drops else ''}")
            case BoundOrder(keys, seed):
                if seed is not None:
                    raise not_said("an order at random", "a seed gives other rows there")
                self.order = [*order_in_sql(keys, self.writer), *self.order] if keys else []
            case BoundDraw():
                self._draw(body)
            case BoundTally():
                self._tally(body)
            case BoundBring():
                self._bring(body)
            case BoundFrom(lines=lines):
                self.lines(lines, self.cuts.index(body.name))

    def _bring(self, body: BoundBring) -> None:
        """Put brought columns beside the rows, under names that nothing else has."""
        names = [f"yardcut brought {len(self.brought) + place}" for place in range(1, len(body.brought) + 1)]
        writer = Writer(self.dialect, self.columns, self.reached, self._looked_up, "line_rows")
        text = brought_text(body, self.last, names, writer, self._there)
        self.add(text)
        first = max(self.columns, default=0) + _BEYOND
        self.columns = {**self.columns, **{first + place: name for place, name in enumerate(names)}}
        for column, name in zip(body.brought, names, strict=True):
            value = unwrapped(column.value)
            assert isinstance(value, Brought)
            self.brought[value] = name

    def _tally(self, body: BoundTally) -> None:
        """Put rows together by GROUP BY, the aggregates under numbers first and the measures made of them."""
        writer = self.writer
        tally = tally_text(body, writer, writer.aggregate, writer.value)
        self.add(f"SELECT {', '.join(tally.told)} FROM {quoted_name(self.last)}{tally.by}")
        self.add(f"SELECT {', '.join(tally.shown)} FROM {quoted_name(self.last)}")
        self.columns = dict(enumerate(tally.names))
        self.order = []
        if body.groups:
            self.notes.append("the groups of a tally come in no order there")

    def _draw(self, body: BoundDraw) -> None:
        draw, drawn = body.draw, ranked_draw(body, self.writer, self.order)
        if not draw.with_ties:
            self.notes.append("of rows that are equal in the order of a draw the database may take others")
        columns = ", ".join(quoted_name(name) for name in self.columns.values())
        inner = f"SELECT {', '.join([columns, *drawn.beside])}\n    FROM {quoted_name(self.last)}"
        self.add(f"SELECT {columns} FROM (\n    {inner}\n  ) AS ranked WHERE {drawn.taken}")
        if body.keys and not draw.remainder:
            if body.groups:
                self.notes.append("the rows of a draw per group come in no order of groups")
                self.order = []
            else:
                self.order = list(drawn.by)


def as_statement(
    lines: Sequence[BoundLine], table: Table, name: str, dialect: str, cuts: Sequence[str] = ("",), cut: int = 0
) -> str:
    """Return the bound lines of a cut as one statement over a table of the database.

    ``cuts`` are the names of the list's cuts, and ``cut`` which of them this is. Raises ``ListError`` for what cannot
    be said so that it surely means the same.
    """
    columns = {number: column.name for number, column in enumerate(table.columns)}
    statement = _Statement(DIALECTS[dialect], name, columns, name, cuts, columns)
    statement.lines(lines, cut)
    shown = lines[-1].scope.shown if lines else None
    text = f"WITH {', '.join(statement.parts)}\n" if statement.parts else ""
    values = [(statement.writer.value(column.value), quoted_name(column.name)) for column in shown or ()]
    if statement.order and _takes_a_name_over(shown or (), statement.columns):
        text += _ordered_within(values, statement)
    else:
        chosen = ",\n  ".join(f"{value} AS {name}" for value, name in values) if shown is not None else "*"
        text += f"SELECT\n  {chosen}\nFROM {quoted_name(statement.last)}"
        if statement.order:
            text += "\nORDER BY " + ordered_by(statement.order)
    notes = "".join(f"-- {note}\n" for note in dict.fromkeys(statement.notes))
    return f"{notes}{text};\n"


def _takes_a_name_over(shown: Sequence[b.ShownColumn], columns: Mapping[int, str]) -> bool:
    """Tell whether a column is shown under a name that means another one in the table.

    Behind ORDER BY that name would be the shown one (ISO/IEC 9075-2, 7.17). Databases pass over the case of names.
    """
    known = {name.casefold(): number for number, name in columns.items()}
    return any(
        column.name.casefold() in known
        and not (isinstance(column.value, b.ColumnValue) and column.value.column == known[column.name.casefold()])
        for column in shown
    )


def _ordered_within(values: Sequence[tuple[str, str]], statement: _Statement) -> str:
    """Write the last table with the keys of the order beside the columns, under names that nothing else has."""
    keys = [f'{key.said} AS "yardcut key {number}"' for number, key in enumerate(statement.order, 1)]
    inner = [f'{value} AS "yardcut {number}"' for number, (value, _) in enumerate(values, 1)]
    outer = [f'"yardcut {number}" AS {name}' for number, (_, name) in enumerate(values, 1)]
    by = [replace(key, said=f'"yardcut key {number}"').text() for number, key in enumerate(statement.order, 1)]
    return (
        "SELECT\n  " + ",\n  ".join(outer) + "\nFROM (\n  SELECT " + ", ".join([*inner, *keys])
        + f"\n  FROM {quoted_name(statement.last)}\n) AS rows_in_order\nORDER BY " + ", ".join(by)
    )  # fmt: skip

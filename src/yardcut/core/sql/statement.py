"""A cut as one statement: each line that takes rows is a table of its own, made from the one above."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from yardcut.core.errors import ListError
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_of, unwrapped
from yardcut.core.language.meaning.bound_second import Brought, OtherRows
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.language.verbs.tally import BoundTally, columns_along
from yardcut.core.run.executing.bound_lines import BoundLine, line_number
from yardcut.core.sql.dialects import DIALECTS, Dialect, quoted_name
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.second_texts import brought_text, listed_text
from yardcut.core.table.table import Table
from yardcut.core.values.kinds import Kind

_BEYOND = 1 << 20
"""Brought columns are numbered far behind those of any table."""


@dataclass(frozen=True, slots=True)
class SortedBy:
    """One key in SQL, and which way it goes."""

    said: str
    descending: bool
    nulls_first: bool

    def text(self) -> str:
        """Write it."""
        down, first = "DESC" if self.descending else "ASC", "FIRST" if self.nulls_first else "LAST"
        return f"{self.said} {down} NULLS {first}"


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
                # a constant orders nothing here, and would be a column's number there
                sorted_by = [by for key, by in zip(keys, self._keys(keys), strict=True) if columns_of(key.value)]
                self.order = [*sorted_by, *self.order] if keys else []
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
        if body.along is not None and not body.sequence:
            raise not_said("along", "its columns are those of the rows; name the values: along … IN SEQUENCE (…)")
        groups, writer = len(body.groups), self.writer
        told = [f'{writer.value(value)} AS "yardcut {place}"' for place, value in enumerate(body.groups)]
        shown = [f'"yardcut {place}" AS {quoted_name(name)}' for place, name in enumerate(body.names)]
        cells = columns_along(body, body.sequence) if body.along is not None else [
            (column.name, column, None) for column in body.measures
        ]  # fmt: skip
        taken = list(dict.fromkeys(value for _, _, value in cells))
        for at, value in enumerate(taken):
            first = groups + at * len(body.aggregates)
            for place, aggregate in enumerate(body.aggregates):
                own = aggregate if value is None else replace(aggregate, where=_both(body, aggregate, value))
                told.append(f'{writer.aggregate(own)} AS "yardcut {first + place}"')
        shift = groups + (body.along is not None)
        for name, column, value in cells:
            first = groups + taken.index(value) * len(body.aggregates)
            numbered = {shift + place: f"yardcut {first + place}" for place in range(len(body.aggregates))}
            shown.append(f"{Writer(self.dialect, numbered, {}).value(column.value)} AS {quoted_name(name)}")
        by = f" GROUP BY {', '.join(str(place + 1) for place in range(groups))}" if groups else ""
        self.add(f"SELECT {', '.join(told)} FROM {quoted_name(self.last)}{by}")
        self.add(f"SELECT {', '.join(shown)} FROM {quoted_name(self.last)}")
        self.columns = dict(enumerate([*body.names, *(name for name, _, _ in cells)]))
        self.order = []
        if groups:
            self.notes.append("the groups of a tally come in no order there")

    def _keys(self, keys: Sequence[b.Key]) -> list[SortedBy]:
        found = []
        for key in keys:
            if isinstance(key.value, b.Call) and key.value.function in ("FOLD", "AS NUMBERS"):
                word = "IGNORING CASE" if key.value.function == "FOLD" else "NUMBER AWARE"
                raise not_said(f"an order {word}", "databases have none just like it")
            by = self.dialect.code_points if key.value.kind is Kind.TEXT else ""
            found.append(SortedBy(self.writer.value(key.value) + by, key.descending, key.nulls_first))
        return found

    def _draw(self, body: BoundDraw) -> None:
        draw, writer = body.draw, self.writer
        if draw.is_by_chance:
            raise not_said(f"draw {draw.form}", "a seed gives other rows there")
        if draw.form == "from":
            raise not_said("draw from … to …", "it goes from row to row")
        keys = self._keys(body.keys)
        if keys:
            top = draw.form == "top"
            keys[0] = SortedBy(keys[0].said, top, False)
        elif not self.order:
            raise not_said(f"draw {draw.form}", "the rows of a table have no order; put an order line above it")
        if not draw.with_ties:
            self.notes.append("of rows that are equal in the order of a draw the database may take others")
        by = [*keys, *self.order]
        ordered = ", ".join(key.text() for key in by)
        ranked = ", ".join(key.text() for key in keys) if draw.with_ties else ordered
        groups = [writer.value(group) for group in body.groups]
        within = f"PARTITION BY {', '.join(groups)} " if groups else ""
        rank = f"{'RANK' if draw.with_ties else 'ROW_NUMBER'}() OVER ({within}ORDER BY {ranked})"
        taken = self._taken(draw, f"COUNT(*) OVER ({within.strip()})")
        if keys:
            taken = f'({taken} AND "yardcut key")'
        bare = keys[0].said.removesuffix(self.dialect.code_points) if keys else ""
        has_key = f', {bare} IS NOT NULL AS "yardcut key"' if keys else ""
        if draw.remainder:
            taken = f"NOT {taken}"
        columns = ", ".join(quoted_name(name) for name in self.columns.values())
        there = f'COUNT(*) OVER ({within.strip()}) AS "yardcut there"'
        inner = f'SELECT {columns}, {rank} AS "yardcut place", {there}{has_key}'
        self.add(
            f"SELECT {columns} FROM (\n    {inner}\n    FROM {quoted_name(self.last)}\n  ) AS ranked WHERE {taken}"
        )
        if keys and not draw.remainder:
            if groups:
                self.notes.append("the rows of a draw per group come in no order of groups")
                self.order = []
            else:
                self.order = by

    def _taken(self, draw: object, total: str) -> str:
        from yardcut.core.language.verbs.draw_parts import Draw

        assert isinstance(draw, Draw)
        written = draw.amount.written
        match draw.form:
            case "every":
                return f'("yardcut place" >= {draw.start} AND ("yardcut place" - {draw.start}) % {written} = 0)'
            case "rows":
                return f'("yardcut place" BETWEEN {draw.start} AND {draw.end})'
        if draw.amount.percent:
            if not written.isdigit() or draw.form in ("top", "bottom"):
                raise not_said("this percentage", "it is rounded otherwise there")
            written = f'(2 * "yardcut there" * {written} + 100) / 200'
        if draw.form == "last":  # counted from the end, so that equal rows stand as they do for first
            return f'("yardcut place" > "yardcut there" - {written})'
        return f'("yardcut place" <= {written})'


def _both(body: BoundTally, aggregate: b.Aggregate, value: b.Constant) -> b.BoundCondition:
    """Return the condition on an aggregate's rows, and that they are those of a value along."""
    assert body.along is not None
    along = b.Piece(b.Compare("=", body.along, value))
    return along if aggregate.where is None else b.AllOf((aggregate.where, along))


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
            text += "\nORDER BY " + ", ".join(key.text() for key in statement.order)
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

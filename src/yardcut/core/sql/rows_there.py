"""Rows on a server, as the lines of a cut leave them one after the other: a statement that gives them, and counts."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sql.counts_there import OWN_NAME, Condition, SentLine, counting, not_looked_up, sent_lines
from yardcut.core.sql.dialects import DIALECTS, quoted_name
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.sql.order_texts import SortedBy, order_in_sql, ordered_by
from yardcut.core.values.kinds import Kind

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
    again. ``place`` is a column of integers that ascend in the order as read, "" for none; ``is_numbered`` tells that
    each row has its place in the source in the column :data:`NUMBER`. ``conditions`` are those at the end that are not
    in ``statement`` yet, each with its line. Rows that a tally made (``is_tally``) are a table of their own, which
    ``is_whole`` as long as no line took any of them.
    """

    statement: str
    columns: Mapping[int, str]
    as_read: tuple[SortedBy, ...]
    order: tuple[SortedBy, ...]
    place: str = ""
    is_numbered: bool = False
    arranged: tuple[SortedBy, ...] = ()
    is_tally: bool = False
    is_whole: bool = True
    tables: tuple[str, ...] = ()
    counted: tuple[Counted, ...] = ()
    conditions: tuple[tuple[Condition, int], ...] = ()

    @property
    def writer(self) -> Writer:
        """What writes expressions over the columns."""
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
            condition = self.writer.condition(body.condition), body.drops
        return replace(self, conditions=(*self.conditions, (condition, place)), is_whole=False)

    def put_in_order(self, body: BoundOrder) -> RowsThere:
        """Return the rows in another order. Raises ``NotSaidError``."""
        if body.seed is not None or (not body.keys and self.arranged not in ((), self.as_read)):
            raise not_said("this order", "it goes by the places of all rows")
        return replace(self, order=(*order_in_sql(body.keys, self.writer), *self.order) if body.keys else self.as_read)

    def placed(self, name: str) -> tuple[str, str]:
        """Return the rows with a column of integers that ascend in their order, and that column as SQL writes it.

        It is called by the name where there is none yet.
        """
        if self.place and self.order == self.as_read:
            return self.statement, quoted_name(self.place)
        by = f"ORDER BY {ordered_by(self.order)}" if self.order else ""
        return (
            f"SELECT *, ROW_NUMBER() OVER ({by}) AS {quoted_name(name)} FROM (\n{self.statement}\n) AS there",
            quoted_name(name),
        )


def typed(said: str, kind: Kind) -> str:
    """Write a value in the type of its kind, and so that numbers have one zero."""
    typed = f"CAST({said} AS {DIALECTS['postgresql'].types[kind]})"
    return f"({typed} + 0)" if kind is Kind.NUMBER else typed

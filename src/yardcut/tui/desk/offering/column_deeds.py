"""What can be done with a column at one moment."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.column_lists import is_pattern
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.bound import ColumnValue, ShownColumn
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.verbs.order import Order
from yardcut.core.profile.fitting import values_unfit
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.values.kinds import Kind
from yardcut.tui.desk.moment import Moment
from yardcut.tui.desk.offering.columns_line import column_list
from yardcut.tui.desk.offering.deeds import Deed


@dataclass(frozen=True, slots=True)
class ColumnChoice:
    """One thing to do with a column: what it is called, and the parts of its :class:`Deed`.

    ``key`` does it in the table; ``finds`` works out what is said beside it.
    """

    says: str
    line: str = ""
    instead_of: int | None = None
    begins: bool = False
    own: str = ""
    key: str = ""
    finds: Callable[[], str] | None = None

    @property
    def deed(self) -> Deed:
        """What is to be done."""
        return Deed(self.line, self.instead_of, self.begins, self.own)


_READ_AS = (Kind.TEXT, Kind.INTEGER, Kind.NUMBER, Kind.DATE)


def column_deeds(moment: Moment, column: ShownColumn, *, is_frozen: bool) -> list[ColumnChoice]:
    """Return them, the likeliest first."""
    name = name_text(column.name)
    words = ("smallest first", "largest first")
    if column.kind is Kind.TEXT:
        words = ("a to z", "z to a")
    elif column.kind not in (Kind.INTEGER, Kind.NUMBER, Kind.BOOLEAN):
        words = ("earliest first", "latest first")
    deeds = [
        *_orders(moment, column, words),
        ColumnChoice("keep the first row of each value", f"draw first 1 per {name}"),
        ColumnChoice("only rows whose value is repeated", f"keep REPEATED({name})"),
        ColumnChoice("write a condition about it", f"keep {name} ", begins=True),
        ColumnChoice("make a column from it", f"make {name_text(column.name + '_2')} = {name} ", begins=True),
        ColumnChoice("leave it out", own="leave out", key="minus"),
        ColumnChoice("rename it", own="rename", key="r"),
        ColumnChoice("move it to the left", own="left", key="comma"),
        ColumnChoice("move it to the right", own="right", key="semicolon"),
        ColumnChoice("make it the first column", own="first"),
        ColumnChoice("make it the last column", own="last"),
        ColumnChoice(
            "let it go with the others again" if is_frozen else "let it stand still at the left", own="freeze", key="z"
        ),
        ColumnChoice("find another column or row", own="find", key="g"),
    ]
    if _comes_by_pattern(moment, column):
        deeds.append(ColumnChoice("replace its pattern by the names of now", own="pin"))
    return deeds + _kinds(moment, column)


def _orders(moment: Moment, column: ShownColumn, words: tuple[str, str]) -> list[ColumnChoice]:
    """Return the ways to order by it: alone, or as the first or last key of the order there is."""
    named = t.Name(column.name)
    ways = [
        (words[0], t.SortKey(named)),
        (words[1], t.SortKey(named, descending=True)),
        ("missing values first", t.SortKey(named, nulls_first=True)),
    ]
    for index in range(len(moment.lines) - 1, -1, -1):
        line = moment.lines[index]
        if line.bound is not None and line.bound.body.starts_anew:
            break
        if line.off or line.statement is None or not isinstance(line.statement.body, Order):
            continue
        if not line.statement.body.keys:
            break
        others = tuple(key for key in line.statement.body.keys if key.value != named)

        def written(*keys: t.SortKey, statement: t.Statement = line.statement) -> str:
            assert isinstance(statement.body, Order)
            return statement_text(replace(statement, body=replace(statement.body, keys=keys)))

        first = [ColumnChoice(f"order by it first, {way}", written(key, *others), index) for way, key in ways]
        last = [ColumnChoice(f"as the last key, {way}", written(*others, key), index) for way, key in ways if others]
        return [*first, *last[:2]]
    return [ColumnChoice(f"order by it, {way}", statement_text(t.Statement(Order((key,))))) for way, key in ways]


def _comes_by_pattern(moment: Moment, column: ShownColumn) -> bool:
    try:
        chosen = column_list(moment).chosen
    except ListError:
        return False
    return any(each.column.number == column.number and is_pattern(each.item) for each in chosen)


def _kinds(moment: Moment, column: ShownColumn) -> list[ColumnChoice]:
    """Return the other kinds the source could be read with, each with how many values do not fit."""
    value = unwrapped(column.value)
    if not isinstance(column.value, ColumnValue) or not isinstance(value, ColumnValue):
        return []
    place, table = value.column, moment.table
    if not any("delimiter" in file.form for file in table.info.files):
        return []
    name = name_text(table.columns[place].name)
    return [
        ColumnChoice(
            f"read it as {kind.value}", f"kind {name} {kind.value}", begins=True,
            finds=lambda kind=kind: values_unfit(table, place, DeclaredKind(kind)).sentence(),  # type: ignore[misc]
        )
        for kind in _READ_AS
        if kind is not column.kind
    ]  # fmt: skip

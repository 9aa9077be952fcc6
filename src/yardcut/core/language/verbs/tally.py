"""``tally``: what the rows come to, per group; its result is a table of its own, on which later lines work."""

from __future__ import annotations

from dataclasses import fields, is_dataclass, replace
from typing import Any

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.aggregate_forms import TallyColumns, aggregate_in
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import name_in
from yardcut.core.language.syntax.printing import expression_text, name_text, side_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

COUNT_OF_ROWS = "count"


@dataclass(frozen=True, slots=True)
class TallyItem(t.Node):
    """A measure or a group, with the name its column gets where one is given."""

    value: t.Expression
    name: str | None = None


@dataclass(frozen=True, slots=True)
class Tally(t.Body):
    """Puts rows together by groups; ``along`` makes one column for each value, of those in ``sequence`` where given."""

    measures: tuple[TallyItem, ...]
    per: tuple[TallyItem, ...] = ()
    along: t.Expression | None = None
    sequence: tuple[t.Expression, ...] = ()

    @property
    def word(self) -> str:
        """The verb."""
        return "tally"


class TallyColumn:
    """A column of a tally: its name, and its value in the table of groups and aggregates.

    It is no dataclass, so that who looks for columns of the table that was met in a plan does not look in here.
    """

    __slots__ = ("name", "value")

    def __init__(self, name: str, value: b.BoundValue) -> None:
        self.name, self.value = name, value

    def __repr__(self) -> str:
        return f"TallyColumn({self.name!r}, {self.value!r})"

    def __eq__(self, other: object) -> bool:
        return isinstance(other, TallyColumn) and (self.name, self.value) == (other.name, other.value)

    def __hash__(self) -> int:
        return hash((self.name, self.value))


@dataclass(frozen=True, slots=True)
class BoundTally(b.BoundBody):
    """A tally: the values that tell groups apart, the aggregates in each, and the columns made of both.

    The columns' values are those of a table that has ``groups`` first (and ``along`` behind them, where there is one),
    then ``aggregates``. ``sequence`` are the values along which columns stand, where they are fixed.
    """

    tally: Tally
    names: tuple[str, ...]
    groups: tuple[b.BoundValue, ...]
    aggregates: tuple[b.Aggregate, ...]
    measures: tuple[TallyColumn, ...]
    along: b.BoundValue | None = None
    sequence: tuple[b.Constant, ...] = ()

    @property
    def starts_anew(self) -> bool:
        """Its rows and columns are a table of their own."""
        return True

    def without_groups(self) -> BoundTally:
        """Return the same measures of all rows, along the same value."""
        away = len(self.groups)
        measures = tuple(TallyColumn(each.name, _moved(each.value, away)) for each in self.measures)
        return replace(self, names=(), groups=(), measures=measures, tally=replace(self.tally, per=()))

    def without_along(self) -> BoundTally:
        """Return the same measures of the same groups, all values along put together."""
        measures = tuple(TallyColumn(each.name, _moved(each.value, 1)) for each in self.measures)
        bare = replace(self.tally, along=None, sequence=())
        return replace(self, measures=measures, along=None, sequence=(), tally=bare)


def _moved(value: Any, by: int) -> Any:
    """Return a measure's value for a table that has so many columns fewer before its aggregates."""
    if isinstance(value, b.ColumnValue):
        return replace(value, column=value.column - by)
    if isinstance(value, tuple):
        return tuple(_moved(part, by) for part in value)
    if not is_dataclass(value) or isinstance(value, t.Node):
        return value
    parts = {part.name: _moved(getattr(value, part.name), by) for part in fields(value)}
    return replace(value, **parts)  # type: ignore[type-var]


def _item(span: t.Span, items: list[Any]) -> TallyItem:
    return TallyItem(items[0], name_in(items[1]) if len(items) > 1 else None, span=span)


def _tally(span: t.Span, items: list[Any]) -> Tally:
    measures = [item for item in items if isinstance(item, TallyItem)]
    clauses: dict[str, Any] = dict(item for item in items if isinstance(item, tuple) and isinstance(item[0], str))
    along, sequence = clauses.get("along", (None, ()))
    return Tally(tuple(measures), clauses.get("per", ()), along, sequence, span=span)


def _along(span: t.Span, items: list[Any]) -> tuple[str, tuple[t.Expression, tuple[t.Expression, ...]]]:
    return "along", (items[0], items[1] if len(items) > 1 else ())


def _item_text(item: TallyItem) -> str:
    named = "" if item.name is None else f" AS {name_text(item.name)}"
    return side_text(item.value) + named


def _text(body: Tally) -> str:
    said = ", ".join(map(_item_text, body.measures))
    if body.per:
        said += f" per {', '.join(map(_item_text, body.per))}"
    if body.along is not None:
        said += f" along {side_text(body.along)}"
    if body.sequence:
        said += f" IN SEQUENCE ({', '.join(map(side_text, body.sequence))})"
    return said


def _bind(body: Tally, binder: Binder) -> tuple[BoundTally, Scope]:
    names: dict[str, TallyItem] = {}
    groups = []
    for item in body.per:
        found = aggregate_in(item.value)
        if found is not None:
            raise binder.error(found, "a group is told by values of its rows", Mend("make it a column first, above"))
        groups.append(binder.value(item.value))
        _take(binder, names, _name_of(binder, item, _group_name(item.value)), item)
    along = None if body.along is None else binder.value(body.along)
    tallied = binder.tallied = TallyColumns(len(groups) + (along is not None))
    measures = [_measure(binder, item, names) for item in body.measures]
    aggregates, binder.tallied = tuple(tallied.found), None
    sequence = _sequence(body, binder)
    bound = BoundTally(body, tuple(names)[: len(groups)], tuple(groups), aggregates, tuple(measures), along, sequence)
    columns = [(name, value.kind) for name, value in zip(bound.names, groups, strict=True)]
    is_open = along is not None and not sequence
    if along is None:
        columns += [(column.name, column.value.kind) for column in measures]
    elif sequence:
        columns += [(name, column.value.kind) for name, column, _ in columns_along(bound, sequence)]
        _refuse_alike(body, [name for name, _ in columns])
    return bound, replace(Scope.of_source(columns).beside(binder.scope), leads_to_source=False, open=is_open)


def _measure(binder: Binder, item: TallyItem, names: dict[str, TallyItem]) -> TallyColumn:
    if aggregate_in(item.value) is None:
        text = expression_text(item.value)
        binder.value(item.value)  # what is wrong with it by itself is told first
        mend = Mend(f"put it behind per, or together by a function, such as MAX({text})")
        raise binder.error(item, f"{text} has no one value in a group", mend)
    bare = _bare_name(item.value)
    if bare is not None:
        text = expression_text(bare)
        mend = Mend(f"within a function it is put together, such as MAX({text})")
        raise binder.error(bare, f"{text} differs from row to row of a group", mend)
    name = _name_of(binder, item, measure_name(item.value))
    _take(binder, names, name, item)
    return TallyColumn(name, binder.value(item.value))


def _bare_name(node: t.Expression) -> t.Expression | None:
    """Return a column that is named outside of every aggregate."""
    if isinstance(node, t.Name | t.ColumnNumber):
        return node
    if isinstance(node, t.Aggregated) or (isinstance(node, t.Call) and aggregate_in(node) is node):
        return None
    for part in t.parts_of(node):
        for each in part if isinstance(part, tuple) else (part,):
            found = _bare_name(each) if isinstance(each, t.Expression) else None
            if found is not None:
                return found
    return None


def measure_name(node: t.Expression) -> str | None:
    """Return what the column of an unnamed measure is called; ``None`` where somebody must say.

    >>> from yardcut.core.language.syntax.parsing_lines import parse_statement
    >>> measure_name(parse_statement("tally SUM(worth)").body.measures[0].value)
    'sum_worth'
    """
    if not isinstance(node, t.Call):
        return None
    word = node.function.lower().replace(" ", "_")
    if not node.arguments or isinstance(node.arguments[0], t.Word):
        return COUNT_OF_ROWS
    first = node.arguments[0]
    return f"{word}_{first.name}" if isinstance(first, t.Name) else None


def _group_name(node: t.Expression) -> str | None:
    return node.name if isinstance(node, t.Name) else None


def _name_of(binder: Binder, item: TallyItem, usual: str | None) -> str:
    if item.name is not None:
        return item.name
    if usual is not None:
        return usual
    text = expression_text(item.value)
    word = next((each for each in ("volume", "share", "value") if each not in binder.text), "value")
    mend = binder.replacing(item, "give its column a name", f"{side_text(item.value)} AS {word}")
    raise binder.error(item, f"the column of {text} needs a name", mend)


def _take(binder: Binder, names: dict[str, TallyItem], name: str, item: TallyItem) -> None:
    if name in names:
        other = next(f"{name}_{number}" for number in range(2, len(names) + 3) if f"{name}_{number}" not in names)
        mend = binder.replacing(item, "call one otherwise", f"{side_text(item.value)} AS {name_text(other)}")
        raise binder.error(item, f"two columns of this tally are called {name}", mend)
    names[name] = item


def _sequence(body: Tally, binder: Binder) -> tuple[b.Constant, ...]:
    found = []
    for node in body.sequence:
        assert body.along is not None
        _, value = binder.pair(body.along, node)
        if not isinstance(value, b.Constant):
            raise binder.error(node, "a sequence takes values that are written out")
        found.append(value)
    return tuple(found)


_LONGEST_NAME = 200
"""Characters of a column's name that are taken from a value."""
Along = tuple[b.Constant | None, ...]


def columns_along(bound: BoundTally, values: Along) -> list[tuple[str, TallyColumn, b.Constant | None]]:
    """Return the columns of a cross-table for the values it stands along (``None``: no value): name, measure, value.

    With one measure that has no name of its own they are called by the value alone.
    """
    alone = len(bound.measures) == 1 and bound.tally.measures[0].name is None
    found = []
    for value in values:
        word = "missing" if value is None else constant_text(value)[:_LONGEST_NAME] or "empty"
        found += [(word if alone else f"{column.name}_{word}", column, value) for column in bound.measures]
    return found


def constant_text(value: b.Constant) -> str:
    """Write a constant as a cell shows it."""
    return str(value.value) if value.kind is Kind.TEXT else formatter(value.kind)(value.value)


def _refuse_alike(body: Tally, names: list[str]) -> None:
    twice = next((name for place, name in enumerate(names) if name in names[:place]), None)
    if twice is not None:
        raise ListError(
            f"two columns of this tally are called {twice}", start=body.span[0], end=body.span[1],
            mend=Mend("give the group or the measure another name: AS name"),
        )  # fmt: skip


def _said(body: Tally) -> str:
    groups = ", ".join(item.name or side_text(item.value) for item in body.per)
    along = f" along {side_text(body.along)}" if body.along is not None else ""
    return f"a row for each {groups}{along}" if groups else f"one row{along}"


TALLY = Verb(
    "tally",
    "tally measure [AS name], … [per group [AS name], …] [along value [IN SEQUENCE (…)]]",
    "puts rows together by groups: a table of its own, on which later lines work",
    "tally COUNT(*), SUM(volume_m3) AS volume, AVG(price_per_m3) per species, grade",
    Effect.GATHERS,
    {
        "tally": _tally,
        "measure": _item,
        "per_item": _item,
        "per_named": lambda span, items: ("per", tuple(items)),
        "along": _along,
    },
    _text,
    _bind,
    _said,
    forms=lambda: {
        "sum": "tally SUM(volume_m3) AS volume per species: also COUNT(*), AVG, MIN, MAX, MEDIAN, COUNT(DISTINCT …)",
        "filter": "tally COUNT(*), COUNT(*) FILTER (WHERE sold_on IS NULL) AS unsold per species",
        "along": "tally SUM(volume_m3) per species along grade IN SEQUENCE ('A', 'B', 'C'): a column for each grade",
    },
)  # fmt: skip

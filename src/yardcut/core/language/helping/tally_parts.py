"""The parts of a tally, changed one at a time: how a group is told, by which function a measure is put together."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.aggregate_forms import aggregate_in
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import expression_text, name_text
from yardcut.core.language.verbs.tally import Tally, TallyItem, measure_name
from yardcut.core.values.kinds import Kind

_OF_NUMBERS = ("SUM", "AVG", "MEDIAN", "MIN", "MAX", "STDDEV_SAMP", "COUNT", "COUNT DISTINCT")
_OF_OTHERS = ("COUNT", "COUNT DISTINCT", "MIN", "MAX")
_OF_DAYS = ("YEAR", "QUARTER", "MONTH", "WEEKDAY")
_STEPS = (1, 10, 100, 1000)


def first_tally(name: str) -> str:
    """Return the line that tallies by a column: how many rows each of its values has.

    >>> first_tally('Max T')
    'tally COUNT(*) per "Max T"'
    """
    return f"tally COUNT(*) per {name_text(name)}"


def measure_from(text: str, kind: Kind | None) -> TallyItem:
    """Return the measure that somebody wrote: a column alone is added up, or counted where it holds no numbers.

    Raises ``ListError``.
    """
    item = _items(f"tally {text}").measures[0]
    if aggregate_in(item.value) is None and isinstance(item.value, t.Name):
        function = "SUM" if kind is not None and kind.is_numeric else "COUNT"
        return replace(item, value=t.Call(function, (item.value,)))
    return item


def group_from(text: str) -> TallyItem:
    """Return the group that somebody wrote. Raises ``ListError``."""
    return _items(f"tally COUNT(*) per {text}").per[0]


def _items(line: str) -> Tally:
    body = parse_statement(line).body
    if not isinstance(body, Tally):
        raise ListError("a measure or a group stands here")
    return body


def measure_turned(item: TallyItem, kind: Kind | None) -> TallyItem:
    """Return a measure with the next function; one of all rows, or made of several, stays as it is."""
    inner = item.value.aggregate if isinstance(item.value, t.Aggregated) else item.value
    if not isinstance(inner, t.Call) or not inner.arguments or isinstance(inner.arguments[0], t.Word):
        return item
    functions = _OF_NUMBERS if kind is not None and kind.is_numeric else _OF_OTHERS
    at = functions.index(inner.function) if inner.function in functions else -1
    turned = t.Call(functions[(at + 1) % len(functions)], inner.arguments[:1])
    value = replace(item.value, aggregate=turned) if isinstance(item.value, t.Aggregated) else turned
    name = item.name
    if name is not None and name == measure_name(inner):
        name = measure_name(turned)
    return replace(item, value=value, name=name)


def group_turned(item: TallyItem, kind: Kind) -> TallyItem:
    """Return a group told otherwise: a day by its year, quarter, month or weekday, a number by steps."""
    column = column_of(item)
    if column is None:
        return item
    ways: list[TallyItem] = [TallyItem(column)]
    if kind in (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT):
        ways += [TallyItem(t.Call("EXTRACT", (t.Word(field), column)), field.lower()) for field in _OF_DAYS]
    elif kind.is_numeric:
        ways += [_in_steps(column, step) for step in _STEPS]
    texts = [expression_text(each.value) for each in ways]
    now = expression_text(item.value)
    at = texts.index(now) if now in texts else -1
    return ways[(at + 1) % len(ways)]


def _in_steps(column: t.Expression, step: int) -> TallyItem:
    """Return a group of numbers by the round number at or below them."""
    if step == 1:
        return TallyItem(t.Call("FLOOR", (column,)), "from_1")
    steps = t.Call("FLOOR", (t.Arithmetic("/", column, t.Number(str(step))),))
    return TallyItem(t.Arithmetic("*", steps, t.Number(str(step))), f"from_{step}")


def column_of(item: TallyItem) -> t.Name | None:
    """Return the only column that an item names; ``None`` where it names several, or none."""
    found: set[t.Name] = set()
    waiting: list[object] = [item.value]
    while waiting:
        part = waiting.pop()
        if isinstance(part, t.Name):
            found.add(part)
        elif isinstance(part, tuple):
            waiting += part
        elif isinstance(part, t.Node):
            waiting += t.parts_of(part)
    return next(iter(found)) if len(found) == 1 else None

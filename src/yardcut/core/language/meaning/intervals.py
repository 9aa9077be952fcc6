"""Adding an INTERVAL to a day, a moment or a time of day, or taking it off."""

from __future__ import annotations

from yardcut.core.errors import Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binds import Binds
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.values.kinds import Kind, a_kind

_MICROSECONDS = {"DAY": 86_400_000_000, "HOUR": 3_600_000_000, "MINUTE": 60_000_000, "SECOND": 1_000_000}
_MOST_DAYS = 4_000_000
_MOST_MONTHS = 130_000
_MOST_MICROSECONDS = _MOST_DAYS * _MICROSECONDS["DAY"]
"""More than this leads out of the calendar from any day, so that a larger number need not be counted with."""


def with_interval(binder: Binds, node: t.Arithmetic) -> b.BoundValue:
    """Bind ``value + INTERVAL …``, ``value - INTERVAL …`` or ``INTERVAL … + value``. Raises ``ListError``."""
    inner, interval = (node.left, node.right) if isinstance(node.right, t.Interval) else (node.right, node.left)
    if node.operator not in "+-" or isinstance(inner, t.Interval) or (node.operator == "-" and inner is node.right):
        raise binder.error(node, "an INTERVAL is added to a day or a moment, or taken off one")
    assert isinstance(interval, t.Interval)
    value = binder.value(inner)
    kind, field, text = value.kind, interval.field, expression_text(node)
    count = -interval.count if node.operator == "-" else interval.count
    if field in ("YEAR", "MONTH") and kind in (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT):
        months = _within(count * (12 if field == "YEAR" else 1), _MOST_MONTHS)
        return b.Call("ADD MONTHS", (value, b.Constant(Kind.INTEGER, months)), kind, text=text)
    if kind is Kind.DATE and field == "DAY":
        return b.Call("ADD UNITS", (value, b.Constant(Kind.INTEGER, _within(count, _MOST_DAYS))), kind, text=text)
    if kind in (Kind.TIMESTAMP, Kind.INSTANT) or (kind is Kind.TIME and field in ("HOUR", "MINUTE", "SECOND")):
        size = count * _MICROSECONDS[field]
        size = size % _MICROSECONDS["DAY"] if kind is Kind.TIME else _within(size, _MOST_MICROSECONDS)
        return b.Call("ADD UNITS", (value, b.Constant(Kind.INTEGER, size)), kind, text=text)
    mend: Mend | None = None
    if kind is Kind.DATE:
        moment = f"CAST({expression_text(inner)} AS timestamp)"
        mend = binder.replacing(inner, f"a day has no {field}; a timestamp has", moment)
    raise binder.error(node, f"{a_kind(kind)} and an INTERVAL of {field} have no sum", mend)


def _within(count: int, most: int) -> int:
    return max(-most, min(most, count))

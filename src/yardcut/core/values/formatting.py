"""Values as the text the grid shows and a delimited file holds: the shortest that reads back the same."""

from __future__ import annotations

import math
from collections.abc import Callable
from decimal import Context, Decimal

from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import format_date, format_instant, format_time, format_timestamp

WIDE = Context(prec=800)
"""Room for every double written out."""

Value = str | int | float | bool
"""A value as plain Python: days and microseconds are integers."""


def format_number(value: float) -> str:
    """Write a double in its shortest exact form, without a trailing ``.0``."""
    text = repr(float(value))
    return text[:-2] if text.endswith(".0") else text


def format_rounded(value: float, digits: int = 6) -> str:
    """Write a double for reading: rounded to some significant digits, its whole part always whole, without an exponent.

    >>> format_rounded(9045170.4), format_rounded(655.93333), format_rounded(0.000012345678)
    ('9045170', '655.933', '0.0000123457')
    """
    if not math.isfinite(value):
        return repr(value)
    written = Decimal(repr(float(value)))
    exponent = min(0, written.adjusted() - digits + 1)
    text = f"{written.quantize(Decimal(1).scaleb(exponent), context=WIDE):f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _format_boolean(value: Value) -> str:
    return "true" if value else "false"


_FORMATTERS: dict[Kind, Callable[..., str]] = {
    Kind.TEXT: str,
    Kind.INTEGER: str,
    Kind.NUMBER: format_number,
    Kind.BOOLEAN: _format_boolean,
    Kind.DATE: format_date,
    Kind.TIMESTAMP: format_timestamp,
    Kind.TIME: format_time,
}


def formatter(kind: Kind, zone: str = "") -> Callable[..., str]:
    """Return the function that writes one present value of a kind; an instant in a zone, or in UTC."""
    if kind is Kind.INSTANT:
        return lambda value: format_instant(value, zone)
    return _FORMATTERS[kind]


def literal(kind: Kind, value: Value) -> str:
    """Write a present value as the shortest literal of the cut language that selects that very value."""
    text = formatter(kind)(value)
    if kind is Kind.TEXT:
        return quote_text(text)
    if kind is Kind.BOOLEAN:
        return text.upper()
    if kind is Kind.INSTANT:
        return f"TIMESTAMP '{text}'"
    if kind.is_temporal or kind is Kind.TIME:
        return f"{kind.value.upper()} '{text}'"
    return text


def quote_text(text: str) -> str:
    """Quote a text; line breaks and control characters take the standard's ``U&'…'`` form (ISO/IEC 9075-2, 5.3).

    >>> print(quote_text("it's"))
    'it''s'
    """
    return _quote(text, "'")


def quote_name(text: str) -> str:
    """Quote a column name, in double quotes.

    >>> print(quote_name('Max T'))
    "Max T"
    """
    return _quote(text, '"')


def _quote(text: str, mark: str) -> str:
    doubled = text.replace(mark, mark * 2)
    if text.isprintable():
        return f"{mark}{doubled}{mark}"
    escaped = "".join(_escape(char) for char in doubled)
    return f"U&{mark}{escaped}{mark}"


def _escape(char: str) -> str:
    if char == "\\":
        return "\\\\"
    if char.isprintable():
        return char
    code = ord(char)
    return f"\\{code:04X}" if code <= 0xFFFF else f"\\+{code:06X}"

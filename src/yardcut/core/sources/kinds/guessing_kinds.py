"""Guessing the kind of a column from texts, and reading texts as values of a kind."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import Value
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import parse_date, parse_instant, parse_time, parse_timestamp

MOST_SET_ASIDE_TEXTS = 20
SET_ASIDE_SHARE = 1000

_INTEGER = re.compile(r"[+-]?\d+\Z", re.ASCII)
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?\Z", re.ASCII)
_LEADING_ZERO = re.compile(r"[+-]?0[0-9xX]")
_LEAST_INTEGER, _MOST_INTEGER = -(2**63), 2**63 - 1
_MOST_LENGTH = len(str(_LEAST_INTEGER))


class NeverNumericError(ValueError):
    """A text that makes its whole column text: a leading zero, or an integer beyond 64 bits."""


def has_leading_zero(text: str) -> bool:
    """Tell whether a text starts with a zero that reading it as a number would lose."""
    return _LEADING_ZERO.match(text) is not None


def without_thousands(text: str, marks: str) -> str:
    """Return a number without the marks between its thousands, where they stand as they should."""
    if len(marks) < 2 or marks[1] not in text:
        return text
    whole, point, part = text.partition(marks[0])
    groups = whole.lstrip("+-").split(marks[1])
    if 1 <= len(groups[0]) <= 3 and all(len(group) == 3 for group in groups[1:]) and "".join(groups).isdecimal():
        return whole.replace(marks[1], "") + point + part
    return text


def _parse_integer(text: str, marks: str) -> int | None:
    text = without_thousands(text.strip(), marks)
    if has_leading_zero(text):
        raise NeverNumericError(text)
    if not _INTEGER.match(text):
        return None
    if not _fits(text):
        raise NeverNumericError(text)
    return int(text)


def _fits(written: str) -> bool:
    """Tell whether an integer without leading zeros fits 64 bits; one of thousands of digits is not worked out."""
    return len(written) <= _MOST_LENGTH and _LEAST_INTEGER <= int(written) <= _MOST_INTEGER


def _parse_number(text: str, marks: str) -> float | None:
    text = without_thousands(text.strip(), marks)
    if has_leading_zero(text):
        raise NeverNumericError(text)
    if marks[0] == ",":
        text = text.replace(".", "x").replace(",", ".")
    if not _NUMBER.match(text):
        return None
    if _INTEGER.match(text) and not _fits(text):
        raise NeverNumericError(text)
    value = float(text)
    return None if value in (float("inf"), float("-inf")) else value


def _parse_boolean(text: str, marks: str) -> bool | None:
    return {"true": True, "false": False}.get(text.strip().lower())


def _parse_date(text: str, marks: str) -> int | None:
    try:
        return parse_date(text.strip())
    except ValueError:
        return None


def _parse_timestamp(text: str, marks: str) -> int | None:
    try:
        return parse_timestamp(text.strip())
    except ValueError:
        return None


def _parse_instant(text: str, marks: str) -> int | None:
    try:
        found = parse_instant(text.strip())
    except ValueError:
        return None
    return None if found is None else found[0]


def _parse_time(text: str, marks: str) -> int | None:
    try:
        return parse_time(text.strip())
    except ValueError:
        return None


Parser = Callable[[str, str], Value | None]

_PARSERS: dict[Kind, Parser] = {
    Kind.BOOLEAN: _parse_boolean,
    Kind.INTEGER: _parse_integer,
    Kind.NUMBER: _parse_number,
    Kind.DATE: _parse_date,
    Kind.TIMESTAMP: _parse_timestamp,
    Kind.INSTANT: _parse_instant,
    Kind.TIME: _parse_time,
    Kind.TEXT: lambda text, marks: text,
}
_NARROWEST_FIRST = (
    Kind.BOOLEAN, Kind.INTEGER, Kind.NUMBER, Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT, Kind.TIME,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Conversion:
    """Texts read as one kind: a value for each (``None`` where missing or unfit), and the unfit by index."""

    values: list[Value | None]
    unfit: list[tuple[int, str]]


def convert(texts: Sequence[str | None], kind: Kind, marks: str = ".") -> Conversion:
    """Read texts as values of a kind. Blanks alone are missing. ``marks``: decimal mark, thousands mark behind it.

    Raises ``NeverNumericError`` when one of them makes the column text.
    """
    parse = _PARSERS[kind]
    values: list[Value | None] = []
    unfit: list[tuple[int, str]] = []
    for index, text in enumerate(texts):
        value = None
        if text is not None and (kind is Kind.TEXT or text.strip()):
            value = parse(text, marks)
            if value is None:
                unfit.append((index, text))
        values.append(value)
    return Conversion(values, unfit)


def may_set_aside(unfit_count: int, unfit_texts: int, present: int) -> bool:
    """Tell whether a kind takes a column although some values do not fit it."""
    return unfit_texts <= MOST_SET_ASIDE_TEXTS and unfit_count * SET_ASIDE_SHARE <= present


def guess_kind(texts: Iterable[str | None], marks: str = ".") -> Kind | None:
    """Guess the kind of a column: the one the fewest texts do not fit, the narrowest of equals.

    ``None`` means there were no values to tell by. Texts that only few values do not fit (see
    :func:`may_set_aside`) do not stand in the way.
    """
    counted = Counter(text for text in texts if text is not None and text.strip())
    return guess_kind_counted(counted, marks)


_PLAIN_INTEGER = re.compile(r"-?(?:0|[1-9][0-9]{0,17})").fullmatch
_PLAIN_NUMBER = re.compile(r"-?(?:0|[1-9][0-9]{0,14})\.[0-9]{1,15}").fullmatch
_WORD = re.compile(r"\s*(?!true\b|false\b)[^\W\d_]", re.IGNORECASE).match
"""A text that begins with a letter and is no boolean: no other kind takes it."""


def _is_plain(fits: Callable[[str], object], texts: Sequence[str]) -> bool:
    """Tell whether all texts are of a form that only one kind takes, whatever the marks: thousands of columns are."""
    return all(map(fits, texts))


def guess_kind_counted(counted: Counter[str], marks: str = ".") -> Kind | None:
    """Guess as :func:`guess_kind` does, from distinct texts and how often each stands."""
    present = counted.total()
    if not present:
        return None
    texts = list(counted)
    if _is_plain(_PLAIN_INTEGER, texts):
        return Kind.INTEGER
    if marks == "." and _is_plain(_PLAIN_NUMBER, texts):
        return Kind.NUMBER
    best, best_unfit = Kind.TEXT, present
    none_may_differ = present < SET_ASIDE_SHARE
    if none_may_differ and _WORD(texts[0]):
        return Kind.TEXT
    for kind in _NARROWEST_FIRST:
        try:
            # of few values all must fit: most kinds are out at the first one
            if none_may_differ and convert(texts[:1], kind, marks).unfit:
                continue
            unfit = convert(texts, kind, marks).unfit
        except NeverNumericError:
            continue
        unfit_count = sum(counted[text] for _, text in unfit)
        if unfit_count < best_unfit and may_set_aside(unfit_count, len(unfit), present):
            best, best_unfit = kind, unfit_count
            if not unfit_count:
                break
    return best

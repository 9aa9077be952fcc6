"""Values as they come from elsewhere: read as values of a column, with what was put right."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from decimal import Decimal, InvalidOperation

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

_QUOTES = "'\"“”‘’„"


@dataclass(frozen=True, slots=True)
class Pasted:
    """Values as the column has them, each once; ``put_right`` counts what was, by what it was.

    ``twice`` counts those that came again, ``unfit`` are texts that are no value of the column's kind.
    """

    values: tuple[str, ...]
    put_right: tuple[tuple[str, int], ...] = ()
    twice: int = 0
    unfit: tuple[str, ...] = ()

    def said(self) -> str:
        """Say what was put right."""
        parts = [f"{what} of {count:,}" for what, count in self.put_right]
        parts += [f"{self.twice:,} came twice"] if self.twice else []
        parts += [f"{len(self.unfit):,} left out, such as {self.unfit[0]}"] if self.unfit else []
        return ", ".join(parts)


def pasted_values(text: str, kind: Kind) -> Pasted:
    """Read pasted text as values of a kind.

    >>> pasted_values("00417-29,\\n '00418-29' \\n\\n00417-29", Kind.TEXT).values
    ('00417-29', '00418-29')
    >>> pasted_values("7.0, 008", Kind.INTEGER).values
    ('7', '8')
    """
    right: Counter[str] = Counter()
    found: dict[str, None] = {}
    unfit: list[str] = []
    twice = 0
    for cell in _cells(text):
        value = _bare(cell, right)
        if not value:
            continue
        if kind.is_numeric or kind is Kind.BOOLEAN:
            plain = _plain_number(value) if kind.is_numeric else value.lower()
            if plain is None or (kind is Kind.BOOLEAN and plain not in ("true", "false")):
                unfit.append(value)
                continue
            right["the spelling"] += plain != value
            value = plain
        twice += value in found
        found[value] = None
    return Pasted(tuple(found), tuple((what, count) for what, count in right.items() if count), twice, tuple(unfit))


def _cells(text: str) -> Iterable[str]:
    lines = text.strip("\r\n").splitlines()
    if len(lines) != 1:
        return lines
    mark = next((mark for mark in "\t;," if mark in lines[0]), None)
    if mark is None:
        return lines
    return next(csv.reader(lines, delimiter=mark, skipinitialspace=True, quotechar="'" if "'" in lines[0] else '"'))


def _bare(cell: str, right: Counter[str]) -> str:
    """Return a cell without blanks, a trailing comma and quotes around it."""
    value = cell.strip()
    right["blanks"] += value != cell
    without = value.rstrip(",;").rstrip()
    right["trailing commas"] += without != value
    if len(without) > 1 and without[0] in _QUOTES and without[-1] in _QUOTES:
        right["quotes"] += 1
        without = without[1:-1].replace("''", "'")
    return without


def _plain_number(text: str) -> str | None:
    """Return a number in its shortest form; ``None`` where it is none."""
    if re.fullmatch(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?", text):
        text = text.replace(",", "")
    try:
        number = Decimal(text)
    except InvalidOperation:
        return None
    if not number.is_finite():
        return None
    return f"{number.normalize() + 0:f}"


@dataclass(frozen=True, slots=True)
class Resolved:
    """Pasted values beside those of a column: which of them are ``there``, as the column spells them, and ``missing``.

    ``respelled`` counts those that differ from the column's own in capitals or blanks.
    """

    there: tuple[str, ...]
    missing: tuple[str, ...]
    respelled: int


def resolved(values: Sequence[str], known: Iterable[str]) -> Resolved:
    """Find pasted values among those of a column; one that is spelled otherwise counts where only one is meant.

    >>> resolved(["OAK", "yew", "fir"], ["oak", "yew"])
    Resolved(there=('oak', 'yew'), missing=('fir',), respelled=1)
    """
    exact = set(known)
    alike: dict[str, list[str]] = {}
    for text in exact:
        alike.setdefault(_folded(text), []).append(text)
    there: dict[str, None] = {}
    missing = []
    respelled = 0
    for value in values:
        others = [value] if value in exact else alike.get(_folded(value), [])
        if len(others) == 1:
            there[others[0]] = None
            respelled += others[0] != value
        else:
            missing.append(value)
    return Resolved(tuple(there), tuple(missing), respelled)


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()

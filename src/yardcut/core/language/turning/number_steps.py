"""A number within a line made larger or smaller by its last digit."""

from __future__ import annotations

import re
from decimal import Decimal

_TEXTS_AND_NUMBERS = re.compile(
    r"""'(?:[^'\n]|'')*' | "(?:[^"\n]|"")*" | (?<![\w.#])(?P<number>\d+(?:\.\d+)?)(?![\w.]) """, re.VERBOSE
)
_SEED = re.compile(r"seed\s*\Z", re.IGNORECASE)


def number_moved(text: str, steps: int, place: int | None = None) -> tuple[str, int, int] | None:
    """Return a line with a number moved by so many units of its last digit, and where that number is now.

    It is the number at ``place`` or the last one before it, else the next one behind; without a place the first one
    that is no seed. Numbers in texts and names are none. Below zero none is moved. ``None`` where there is none.

    >>> number_moved('draw top 12 by volume', 1)[0]
    'draw top 13 by volume'
    """
    found = [match.span("number") for match in _TEXTS_AND_NUMBERS.finditer(text) if match["number"] is not None]
    if place is None:
        found = [span for span in found if not _SEED.search(text[: span[0]])] or found
        span = found[0] if found else None
    else:
        before = [span for span in found if span[0] <= place]
        span = before[-1] if before else found[0] if found else None
    if span is None:
        return None
    start, end = span
    number = Decimal(text[start:end])
    unit = Decimal(1).scaleb(int(number.as_tuple().exponent))
    moved = f"{max(Decimal(0) * unit, number + steps * unit):f}"
    return text[:start] + moved + text[end:], start, start + len(moved)


def large_step(number: str) -> int:
    """Return a step of about a tenth of a number, of one digit and zeros."""
    tenth = str(int(Decimal(number)) // 10)
    return max(1, int(tenth[0] + "0" * (len(tenth) - 1)))

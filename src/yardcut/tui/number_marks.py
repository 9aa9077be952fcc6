"""How numbers stand on screen: without the noise of binary, with the user's marks. For the eye alone."""

from __future__ import annotations

import re
from decimal import Decimal

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import WIDE
from yardcut.core.values.kinds import Kind
from yardcut.tui.text import glance

_NUMBER = re.compile(r"([+-]?)(\d+)(?:\.(\d+))?")
MOST_DIGITS = 15
"""Significant digits of a number that is no integer: as many as a double always holds (IEEE 754, DBL_DIG)."""
_LONGEST_WRITTEN_OUT = 21
_FEW_CHARACTERS = MOST_DIGITS + 1


def calm(text: str, decimals: int | None = None) -> str:
    """Return a number as it is read: at most 15 significant digits, written out where that is not long.

    With ``decimals`` it has so many of them, unless nothing would be left of it. Integers stay whole.

    >>> calm("655.9000000000001"), calm("1.25e-05"), calm("12345678901234567890"), calm("655.9", 2)
    ('655.9', '0.0000125', '12345678901234567890', '655.90')
    """
    is_whole = text.lstrip("+-").isdigit()
    is_read_as_it_is = is_whole or (len(text) <= _FEW_CHARACTERS and "e" not in text)
    if (is_read_as_it_is and decimals is None) or not text[-1:].isdigit():  # neither infinite nor no number at all
        return text
    value = Decimal(text) if is_whole else _without_noise(Decimal(text))
    fixed = value if decimals is None else value.quantize(Decimal(1).scaleb(-decimals), context=WIDE)
    if fixed or not value:
        written = f"{fixed:f}"
    else:
        written = f"{value:f}"
    if decimals is None and "." in written:
        written = written.rstrip("0").rstrip(".")
    return written if len(written) <= _LONGEST_WRITTEN_OUT else text


def _without_noise(value: Decimal) -> Decimal:
    """Round to the digits that a double always holds."""
    last, exponent = value.adjusted() - MOST_DIGITS + 1, value.as_tuple().exponent
    return (
        value
        if not isinstance(exponent, int) or exponent >= last
        else value.quantize(Decimal(1).scaleb(last), context=WIDE)
    )


@dataclass(frozen=True, slots=True)
class NumberMarks:
    """The two marks; no ``thousands`` where it is empty."""

    decimal: str = "."
    thousands: str = ""

    def shown(self, text: str, decimals: int | None = None) -> str:
        """Return a number as it stands on screen, perhaps with so many decimals; one too long keeps its exponent."""
        text = calm(text, decimals)
        if (self.decimal, self.thousands) == (".", ""):
            return text
        found = _NUMBER.fullmatch(text)
        if found is None:
            return text
        sign, whole, rest = found.groups()
        if self.thousands:
            whole = f"{int(whole):,}".replace(",", self.thousands) if len(whole) == len(str(int(whole))) else whole
        return f"{sign}{whole}{self.decimal + rest if rest else ''}"

    def grouped(self, text: str) -> str:
        """Return a large number, its thousands marked whatever is set."""
        return NumberMarks(self.decimal, self.thousands or ("," if self.decimal == "." else ".")).shown(text)


def shown_value(kind: Kind, text: str) -> str:
    """Return a value of a kind as it stands on screen."""
    return marks().shown(text) if kind.is_numeric else glance(text)


_now = [NumberMarks()]


def marks() -> NumberMarks:
    """Return the marks in force."""
    return _now[0]


def use_marks(own: NumberMarks) -> None:
    """Let other marks be in force."""
    _now[0] = own

"""How numbers stand on screen: the marks between thousands and before decimals. For the eye alone."""

from __future__ import annotations

import re
from dataclasses import dataclass

_NUMBER = re.compile(r"([+-]?)(\d+)(?:\.(\d+))?")


@dataclass(frozen=True, slots=True)
class NumberMarks:
    """The two marks; no ``thousands`` where it is empty."""

    decimal: str = "."
    thousands: str = ""

    def shown(self, text: str) -> str:
        """Return a number that is written out as it stands on screen; one with an exponent stays as it is."""
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


_now = [NumberMarks()]


def marks() -> NumberMarks:
    """Return the marks in force."""
    return _now[0]


def use_marks(own: NumberMarks) -> None:
    """Let other marks be in force."""
    _now[0] = own

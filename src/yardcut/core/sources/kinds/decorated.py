"""Numbers as people write them: with a currency sign, a percent sign, in brackets, with the minus behind them."""

from __future__ import annotations

import re
import unicodedata

from yardcut.core.sources.kinds.guessing_kinds import NeverNumericError, convert
from yardcut.core.values.kinds import Kind

_LETTERS = re.compile(r"(?:[A-Z]{3}\s)?(?P<rest>.*?)(?:\s[A-Z]{3})?\Z", re.DOTALL)
_MINUS = "\N{MINUS SIGN}"


def decorated_number(text: str, marks: str) -> float | None:
    """Return the number a text holds, without one currency sign or a percent sign, and with its sign.

    Brackets around it and a minus behind it mean a number below zero, as bookkeepers write it; 12 % is 12. ``marks``
    are the decimal mark and the mark between thousands. ``None`` for anything else.
    """
    bare, negative = _bare(text)
    if not bare or (negative and bare[0] in "+-"):
        return None
    try:
        value = convert([bare], Kind.NUMBER, marks).values[0]
    except NeverNumericError:
        return None
    return None if value is None else -float(value) if negative else float(value)


def _bare(text: str) -> tuple[str, bool]:
    """Return a text without what stands around its number, and whether that says it is below zero."""
    text = text.strip().replace(_MINUS, "-")
    text, negative = _without_sign(text)
    text = _without_mark(text)
    if not negative:
        text, negative = _without_sign(text)
    return text, negative


def _without_sign(text: str) -> tuple[str, bool]:
    if text.startswith("(") and text.endswith(")"):
        return text[1:-1].strip(), True
    if len(text) > 1 and text.endswith("-"):
        return text[:-1].strip(), True
    if len(text) > 1 and text[0] == "-" and not text[1].isdecimal() and text[1] not in ".,":
        return text[1:].strip(), True
    return text, False


def _without_mark(text: str) -> str:
    """Return a text without one currency sign at either end, or one percent sign behind."""
    if text.endswith("%"):
        return text[:-1].strip()
    if text and unicodedata.category(text[0]) == "Sc":
        return text[1:].strip()
    if text and unicodedata.category(text[-1]) == "Sc":
        return text[:-1].strip()
    found = _LETTERS.match(text)
    assert found is not None
    return found["rest"].strip()


def marks_around(text: str) -> list[str]:
    """Name what stands around the number in a text: signs of currency and percent, brackets, a minus behind."""
    bare = text.strip()
    named = [f"a {char}" for char in bare if char == "%" or unicodedata.category(char) == "Sc"]
    if bare.startswith("(") or bare.endswith(")"):
        named.append("brackets for a minus")
    if bare.endswith("-"):
        named.append("the minus behind")
    found = _LETTERS.match(bare)
    if found is not None and len(found["rest"]) < len(bare):
        named.append("the letters of a currency")
    return named

"""``look`` lines: an order, a keep or a drop that is for the eye only, and never part of the slice."""

from __future__ import annotations

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax_trees import Statement

WORD = "look"
VERBS = ("order", "keep", "drop")


def is_look(text: str) -> bool:
    """Tell whether a line begins with the word."""
    return text.split(None, 1)[:1] != [] and text.split(None, 1)[0].lower() == WORD


def look_body(text: str) -> str:
    """Return the line behind the word, blanks in the word's place, so that offsets stay."""
    start = len(text) - len(text.lstrip())
    return " " * (start + len(WORD)) + text[start + len(WORD) :]


def parse_look(text: str) -> Statement:
    """Parse a look line. Raises ``ListError``."""
    body = look_body(text)
    if not body.strip():
        raise ListError(
            "look takes an order, a keep or a drop", end=len(text), mend=Mend("look order price_per_m3 DESC")
        )
    statement = parse_statement(body)
    if statement.off or statement.verb not in VERBS:
        start = len(body) - len(body.lstrip())
        word = "off" if statement.off else statement.verb
        raise ListError(f"look takes an order, a keep or a drop, and not {word}", start=start, end=start + len(word))
    return statement

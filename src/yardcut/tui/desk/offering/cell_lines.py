"""Lines about one cell."""

from __future__ import annotations

from yardcut.core.language.helping.value_sets import value_literal
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.values.formatting import literal
from yardcut.core.values.kinds import Kind

_BEGINNING = 40


def line_about(verb: str, name: str, kind: str, text: str | None) -> str:
    """Return a line that keeps or drops the rows with one cell's value; the cell is given as the grid shows it."""
    written = name_text(name)
    if text is None:
        return f"{verb} {written} IS NULL"
    return f"{verb} {written} = {value_literal(Kind(kind), text)}"


def line_about_beginning(verb: str, name: str, text: str) -> str:
    """Return a line that keeps or drops the rows where a text begins as a long cell does."""
    return f"{verb} {name_text(name)} STARTS WITH {literal(Kind.TEXT, text[:_BEGINNING])}"

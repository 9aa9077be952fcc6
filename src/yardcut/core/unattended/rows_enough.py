"""How many of a source's first rows a cut needs, where it needs no others: its reading may stop there.

Only such cuts are told whose rows are the same, byte for byte, whatever stands further down: no line looks at a
value, whose kind all of the file decides, and the slice goes out as text, each cell as it stands.
"""

from __future__ import annotations

from pathlib import Path

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError, TargetError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.language.verbs.draw_parts import Draw
from yardcut.core.language.verbs.save import Save
from yardcut.core.language.write_options import NO_OPTIONS
from yardcut.core.sources.formats.format_of_files import format_of_file
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.writers.plans import plan_of


def rows_enough(cut: Cut, spec: SourceSpec, out: Path | None) -> int | None:
    """Return how many of the first rows of a source decide what a cut leaves; ``None``: perhaps all of them.

    Raises ``SourceError`` where there is no such source.
    """
    paths = spec.paths()
    if len(paths) != 1 or spec.lines or not format_of_file(paths[0]).delimiter or not is_text(out):
        return None
    enough: int | None = None
    for line in cut.lines:
        if line.is_off:
            continue
        found = _body(line)
        if isinstance(found, Draw) and (taken := _first_rows(found)) is not None:
            enough = taken if enough is None else min(enough, taken)
        elif isinstance(found, Save):
            if (
                found.per
                or found.per_rows
                or found.options != NO_OPTIONS
                or not is_text(Path(found.path), found.format)
            ):
                return None
        elif not isinstance(found, Columns):
            return None
    return enough


def _body(line: Line) -> t.Body | None:
    """Return what a line says; nothing for one that is wrong, or goes by a dial."""
    try:
        return None if ":" in line.text else line.statement().body
    except ListError:
        return None


def _first_rows(draw: Draw) -> int | None:
    """Return the last of the first rows that a draw looks at, where it looks at no other."""
    plain = Draw(draw.form, draw.amount, start=draw.start, end=draw.end)
    if draw != plain:
        return None
    if draw.form == "rows":
        return draw.end or None
    amount = draw.amount
    is_number = amount.written.isdecimal() and not amount.dial
    return int(amount.written) if draw.form == "first" and is_number and not amount.percent else None


def is_text(out: Path | None, form: str | None = None) -> bool:
    """Tell whether a slice goes out as text; to standard output it does."""
    try:
        return out is None or bool(plan_of(out, form).format.delimiter)
    except TargetError:
        return False

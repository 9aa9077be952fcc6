"""What the list panel's lines are made of: a head with its count, a bar, and texts below."""

from __future__ import annotations

from rich.cells import cell_len

from yardcut.tui.panels.list_state import CountsOfAll, PanelLine, Run
from yardcut.tui.text import fit, wrap
from yardcut.tui.widgets.bar_cells import GONE, SAW, SOLID, plank

MARK = "!"
NUMBER, VERB, COUNT = 3, 8, 12
"""Widths, in cells, of a line's number, of its verb and of its count."""


def row(
    number: str,
    verb: str,
    phrase: str,
    count: str,
    width: int,
    styles: tuple[str, str, str],
    entry: int | None,
    is_marked: bool = False,
) -> PanelLine:
    """Return a line's head: number, verb, phrase and count in columns; ``styles`` are those of the last three.

    A line about which there is a hint is marked behind its number.
    """
    room = phrase_room(width, count)
    return PanelLine(
        (
            (f"{number:>{NUMBER - 1}}" if is_marked else f"{number:>{NUMBER - 1}} ", "number"),
            (MARK if is_marked else "", "hint"),
            (fit(verb, VERB), styles[0]),
            (fit(phrase, room), styles[1]),
            (f"{count:>{max(COUNT, len(count) + 1)}}", styles[2]),
        ),
        entry,
    )


def phrase_room(width: int, count: str) -> int:
    """Return the cells there are for a line's phrase beside its count."""
    return max(4, width - NUMBER - 1 - VERB - max(COUNT, len(count) + 1))


def rows_of(
    number: str, verb: str, said: str, count: str, width: int, entry: int, tall: bool, is_marked: bool = False
) -> list[PanelLine]:
    """Return a line's head, its phrase on two lines where there is room and it needs them."""
    room = phrase_room(width, count)
    styles = ("verb", "phrase", "count")
    if not tall or cell_len(said) <= room:
        return [row(number, verb, said, count, width, styles, entry, is_marked)]
    parts = wrap(said, room)
    second = fit(" ".join(parts[1:]), max(4, width - NUMBER - 1 - VERB))
    indent = " " * (NUMBER + VERB)
    return [
        row(number, verb, parts[0], count, width, styles, entry, is_marked),
        PanelLine(((indent, "number"), (second, "phrase")), entry),
    ]


def bar(left: int, taken: int, total: int, width: int, note: Run, entry: int) -> PanelLine:
    """Return the plank of a line: what it leaves, what it takes, and what was gone before, of ``total`` rows."""
    room = max(4, width - NUMBER - 1 - COUNT)
    solid, saw, gone = plank(left, taken, total, room)
    return PanelLine(
        (
            (" " * NUMBER, "number"),
            (SOLID * solid, "plank"),
            (SAW * saw, "saw"),
            (GONE * gone, "gone"),
            (f"{note[0]:>{COUNT}}", note[1]),
        ),
        entry,
    )


def of_all(counts: CountsOfAll, width: int, entry: int) -> list[PanelLine]:
    """Return what is known of all rows of a source that still comes, below the count of those that came."""
    count = counts.of_line(entry)
    if not count:
        return []
    room = max(COUNT, len(count) + 1)
    said = fit(counts.said, max(4, width - NUMBER - 1 - room))
    return [PanelLine(((" " * NUMBER, "number"), (said, "none"), (f"{count:>{room}}", "none")), entry)]


def said_lines(text: str, width: int, style: str, entry: int | None = None) -> list[PanelLine]:
    """Return a text below a line, on as many lines as it needs."""
    indent = " " * NUMBER
    return [PanelLine(((indent, "number"), (part, style)), entry) for part in wrap(text, max(8, width - NUMBER - 1))]

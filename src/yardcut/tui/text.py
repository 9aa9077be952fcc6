"""The one door for text from data or users: what comes out is literal and safe to put on a terminal."""

from __future__ import annotations

import time
import unicodedata
from functools import lru_cache

from rich.cells import cell_len, set_cell_size

MISSING = "╌╌"
_JOINERS = frozenset("\u200b\u200c\u200d\u2060\ufeff") | {chr(code) for code in range(0xFE00, 0xFE10)}
_BIDI = frozenset("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
_ELLIPSIS = "…"


def _stand_in(char: str) -> str:
    code = ord(char)
    if char == "\n":
        return "↵"
    if char == "\t":
        return "⇥"
    if code < 0x20:
        return chr(0x2400 + code)
    if code == 0x7F:
        return "␡"
    if char in _JOINERS:
        return ""
    if char in _BIDI:
        return "⟂"
    return "�"


_LEAST_PIECE = 4
LONGEST = 1 << 15
_GLANCE = 512


def glance(text: str) -> str:
    """Return the beginning of a text, clean, as much as one line can show of it."""
    return clean(text[:_GLANCE])


def listed(text: str) -> str:
    """Show a value so that blanks at its ends, or an empty one, are seen."""
    shown = glance(text)
    return f"'{shown}'" if not shown or shown != shown.strip() else shown


def clean_lines(text: str) -> str:
    """Return a text of several lines, each clean."""
    return "\n".join(map(clean, text.split("\n")))


def clean(text: str) -> str:
    """Return a text with every character a terminal might obey replaced by a visible stand-in.

    Joiners and variation selectors, about whose width terminals disagree, are left out, and what stands behind the
    first ``LONGEST`` characters.
    """
    return _cleaned(text if len(text) <= LONGEST else text[:LONGEST] + _ELLIPSIS)


@lru_cache(maxsize=1 << 15)
def _cleaned(text: str) -> str:
    if text.isascii() and text.isprintable():
        return text
    found = []
    for char in text:
        if char.isprintable() and char not in _JOINERS:
            found.append(" " if unicodedata.category(char) == "Zs" else char)
        elif unicodedata.category(char) == "Zs":
            found.append(" ")
        else:
            found.append(_stand_in(char))
    return "".join(found)


def fit(text: str, width_cells: int, *, right: bool = False) -> str:
    """Return a clean text cut or padded to exactly some cells; what is cut ends in an ellipsis."""
    size = len(text) if text.isascii() else cell_len(text)
    if size > width_cells:
        if width_cells <= 1:
            return set_cell_size(text, width_cells)
        return set_cell_size(text, width_cells - 1) + _ELLIPSIS
    padding = " " * (width_cells - size)
    return padding + text if right else text + padding


def wrap(text: str, width_cells: int) -> list[str]:
    """Break a clean text into lines of at most some cells, at blanks where there are any; in one pass over it."""
    lines: list[str] = []
    current, size = "", 0
    for word in text.split(" "):
        at, left = 0, cell_len(word)
        while left > width_cells:
            room = width_cells - (size + 1 if current else 0)
            if room < _LEAST_PIECE and current:
                lines.append(current)
                current, size, room = "", 0, width_cells
            end, used = _as_much(word, at, room)
            lines.append(f"{current} {word[at:end]}" if current else word[at:end])
            current, size = "", 0
            at, left = end, left - used
        if current and size + 1 + left > width_cells:
            lines.append(current)
            current, size = word[at:], left
        elif current:
            current, size = f"{current} {word[at:]}", size + 1 + left
        else:
            current, size = word[at:], left
    lines.append(current)
    return lines


def _as_much(word: str, start: int, room_cells: int) -> tuple[int, int]:
    """Return the end of what fits into some cells, one character at least, and how many cells that takes."""
    used = 0
    for place in range(start, len(word)):
        more = cell_len(word[place])
        if used + more > room_cells and place > start:
            return place, used
        used += more
    return len(word), used


def plural(count: int, noun: str) -> str:
    """Say a count with its noun, given for one: 1 row, 2 rows."""
    return f"{count:,} {noun}{'' if count == 1 else 's'}"


def number_in(text: str, width_cells: int) -> str:
    """Return a number with as many digits as there is room for, its size kept; other texts as they are."""
    if len(text) <= width_cells:
        return text
    try:
        value = float(text)
    except ValueError:
        return text
    for digits in range(width_cells, 0, -1):
        shorter = f"{value:.{digits}g}".replace("e+0", "e").replace("e+", "e").replace("e-0", "e-")
        if len(shorter) <= width_cells:
            return shorter
    return text


def when(moment: float) -> str:
    """Say when something was, in words short enough for a line."""
    there, now = time.localtime(moment), time.localtime()
    clock = time.strftime("%H:%M", there)
    if there[:3] == now[:3]:
        return f"today at {clock}"
    return time.strftime("on %Y-%m-%d at ", there) + clock

"""A distribution drawn several lines high, a stretch of it standing out."""

from __future__ import annotations

from collections.abc import Sequence

from textual.content import Content

_LEVELS = " ▁▂▃▄▅▆▇█"


def histogram(bins: Sequence[int], lines: int, inside: tuple[int, int], cells: int = 1) -> Content:
    """Draw bins, each some cells wide; those at the places ``inside`` (first and last) stand out.

    A bin that is not empty keeps a trace, so that rare values stay visible.
    """
    most = max(bins, default=0) or 1
    levels = [max(1, round(count / most * lines * 8)) if count else 0 for count in bins]
    first, last = inside
    parts: list[str | tuple[str, str]] = []
    for line in range(lines - 1, -1, -1):
        for place, level in enumerate(levels):
            glyph = _LEVELS[max(0, min(8, level - line * 8))] * cells
            parts.append((glyph, "$plank" if first <= place <= last else "$gone"))
        parts.append("\n" if line else "")
    return Content.assemble(*parts)

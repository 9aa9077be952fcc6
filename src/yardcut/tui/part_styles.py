"""How the parts of grid and list are drawn, from the theme's colours.

A table rather than style sheet classes: sixty styles matched against every rule again and again would take a tenth of
a second from the first paint.
"""

from __future__ import annotations

from rich.style import Style
from textual.theme import Theme

_PARTS = {
    "grid-name": "bold",
    "grid-cursor-name": "accent bold",
    "grid-kind": "dim",
    "grid-shape": "plank",
    "grid-rule": "gone",
    "grid-number": "faint",
    "grid-cell": "foreground",
    "grid-missing": "none",
    "grid-gone": "faint",
    "grid-mark": "saw bold",
    "grid-unknown": "none bold",
    "grid-row": "on-band",
    "grid-cursor": "cursor-text on-cursor bold",
    "grid-reason": "saw",
    "grid-lit": "accent bold",
    "list-number": "dim",
    "list-verb": "accent bold",
    "list-phrase": "foreground",
    "list-count": "foreground bold",
    "list-changed": "accent bold underline",
    "list-plank": "plank",
    "list-saw": "saw",
    "list-gone": "gone",
    "list-none": "none",
    "list-off": "faint strike",
    "list-dim": "dim",
    "list-rule": "gone",
    "list-error": "error bold",
    "list-hint": "warning",
    "list-selected": "on-band",
}
"""Each part's words: a colour of the theme, ``on-`` and the colour behind, or an attribute."""


_STYLES: dict[tuple[str, str], Style] = {}


def part_style(theme: Theme, part: str) -> Style:
    """Return the style of a part in a theme; what it leaves open comes from what is behind."""
    known = _STYLES.get((theme.name, part))
    if known is None:
        known = _STYLES[theme.name, part] = _made(theme, part)
    return known


def _made(theme: Theme, part: str) -> Style:
    own = {"accent": theme.accent, "foreground": theme.foreground, "error": theme.error, "warning": theme.warning}
    colours = own | theme.variables
    style = Style()
    for word in _PARTS[part].split():
        if word in ("bold", "strike", "underline"):
            style += Style.parse(word)
        elif word.startswith("on-"):
            style += Style(bgcolor=colours[word[3:]])
        else:
            style += Style(color=colours[word])
    return style

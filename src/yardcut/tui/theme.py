"""The themes of Yard Cut: sawdust and lamp light, and a pale one for bright rooms."""

from __future__ import annotations

from textual.theme import Theme

DARK = Theme(
    name="yard-dark",
    dark=True,
    primary="#d9a45b",
    secondary="#7fa3b8",
    accent="#e3a23c",
    foreground="#ded5c4",
    background="#14120e",
    surface="#1c1813",
    panel="#262019",
    success="#93ad62",
    warning="#e3a23c",
    error="#d4694a",
    variables={
        "plank": "#c79d62",
        "saw": "#d4694a",
        "gone": "#6b6152",
        "none": "#7fa3b8",
        "dim": "#9a8f7d",
        "faint": "#6b6152",
        "would": "#9dbb68",
        "band": "#2b241b",
        "cursor": "#e3a23c",
        "cursor-text": "#14120e",
    },
)

LIGHT = Theme(
    name="yard-light",
    dark=False,
    primary="#8a5a1c",
    secondary="#2f6079",
    accent="#9a5b00",
    foreground="#2a241b",
    background="#f6f1e7",
    surface="#ece4d4",
    panel="#e2d8c4",
    success="#4c6b1f",
    warning="#9a5b00",
    error="#a33a1c",
    variables={
        "plank": "#a9793a",
        "saw": "#a33a1c",
        "gone": "#a09580",
        "none": "#2f6079",
        "dim": "#6f6552",
        "faint": "#a09580",
        "would": "#4c6b1f",
        "band": "#ddd1b8",
        "cursor": "#9a5b00",
        "cursor-text": "#fffaf0",
    },
)

_BLACK, _WHITE, _BRIGHT, _GREY, _BLUE = "#000000", "#aaaaaa", "#ffffff", "#555555", "#0000aa"
_BROWN, _YELLOW, _RED, _GREEN, _CYAN = "#aa5500", "#ffff55", "#ff5555", "#55ff55", "#55ffff"
SIXTEEN = Theme(
    name="yard-16",
    dark=True,
    primary=_YELLOW,
    secondary=_CYAN,
    accent=_YELLOW,
    foreground=_BRIGHT,
    background=_BLACK,
    surface=_BLACK,
    panel=_BLACK,
    success=_GREEN,
    warning=_YELLOW,
    error=_RED,
    variables={
        "plank": _BROWN,
        "saw": _RED,
        "gone": _GREY,
        "none": _CYAN,
        "dim": _WHITE,
        "faint": _GREY,
        "would": _GREEN,
        "band": _BLUE,
        "cursor": _YELLOW,
        "cursor-text": _BLACK,
    },
)
"""Of the sixteen colours that every terminal has (the text mode's of a colour graphics adapter), none in between."""

THEMES = (DARK, LIGHT, SIXTEEN)
"""All themes; the app starts with the first unless the settings name another."""


def theme_for(name: str, colour_system: str | None) -> str:
    """Return the theme to start with: where a terminal has sixteen colours, the one of these in place of the dark one.

    The nearest of sixteen to each colour would tell the same thing in two colours, and a mark not at all.
    """
    return SIXTEEN.name if name == DARK.name and colour_system == "standard" else name


def next_theme(name: str) -> str:
    """Return the name of the theme after one."""
    names = [theme.name for theme in THEMES]
    return names[(names.index(name) + 1) % len(names)] if name in names else names[0]

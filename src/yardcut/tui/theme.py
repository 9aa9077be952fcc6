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

THEMES = (DARK, LIGHT)
"""All themes; the app starts with the first unless the settings name another."""


def next_theme(name: str) -> str:
    """Return the name of the theme after one."""
    names = [theme.name for theme in THEMES]
    return names[(names.index(name) + 1) % len(names)] if name in names else names[0]

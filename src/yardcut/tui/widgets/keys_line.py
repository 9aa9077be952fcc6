"""The keys of a card at its bottom; a line is broken between two of them, never within one."""

from __future__ import annotations

from collections.abc import Sequence

from rich.cells import cell_len
from textual.content import Content
from textual.widgets import Static

_LONG_CELLS = 70
"""Of all keys together; where they take more they stand closer."""


def joined(parts: Sequence[str]) -> str:
    """Return keys with what they do on one line."""
    return _between(parts).join(parts)


def _between(parts: Sequence[str]) -> str:
    return "   " if sum(map(len, parts)) < _LONG_CELLS else "  "


class KeysLine(Static):
    """Shows keys with what they do, on as many lines as they need."""

    def __init__(self, parts: Sequence[str]) -> None:
        super().__init__(Content(joined(parts)), classes="keys")
        self._parts = parts

    def on_resize(self) -> None:
        """Break the line anew."""
        between, lines = _between(self._parts), [""]
        for part in self._parts:
            whole = lines[-1] + between + part if lines[-1] else part
            if lines[-1] and cell_len(whole) > self.size.width:
                lines.append(part)
            else:
                lines[-1] = whole
        self.update(Content("\n".join(lines)))

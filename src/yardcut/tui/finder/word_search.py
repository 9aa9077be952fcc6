"""Which entries some words find, the likeliest first; a word nobody knows is taken as the one it misspells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yardcut.core.near import nearest_value
from yardcut.tui.finder.findable import vocabulary, words_of
from yardcut.tui.finder.leads import Entry

_SMALL_WORDS = frozenset(
    ["how", "do", "does", "can", "i", "a", "an", "the", "to", "my", "me", "want", "would", "like", "with", "for"]
)
_NAMED, _BEGINS, _TOLD, _TOLD_BEGINS, _WITHIN = 0, 2, 3, 5, 8
"""How far a word is from an entry: one of its names, the beginning of one, a word of what it tells, part of one."""

_MOVES = 100
_SECTIONS = {
    "columns": -0.8,
    "how do I": -0.5,
    "functions": -0.2,
    "reading": 0.3,
    "words": 0.2,
    "how values are written": 0.2,
}
"""Between entries that are equally near: what people call it comes first."""


@dataclass(frozen=True, slots=True)
class Found:
    """What some words find; ``instead`` is what was looked for where nothing is told of what was typed."""

    entries: tuple[Entry, ...]
    instead: str = ""


class Search:
    """Looks for words among entries, whose words are taken apart once."""

    def __init__(self, entries: Sequence[Entry]) -> None:
        self._entries = tuple(entries)
        self._named = [frozenset(words_of(f"{entry.left} {entry.words}")) for entry in entries]
        self._told = [frozenset(words_of(entry.right)) for entry in entries]

    def find(self, text: str) -> Found:
        """Return what has all words of a text, the likeliest first; for no words everything but the columns.

        These may be thousands, and are told by the table.
        """
        words = _asked(text)
        if not words:
            return Found(tuple(entry for entry in self._entries if entry.lead.place is None))
        found = self._with_all(words)
        if found:
            return Found(found)
        known = vocabulary(self._entries)
        instead = [word if self._with_all([word]) else nearest_value(word, known) or "" for word in words]
        near = [word for word in instead if word]
        return Found(self._with_all(near) if near else (), " ".join(near))

    def _with_all(self, words: Sequence[str]) -> tuple[Entry, ...]:
        far = []
        for place, entry in enumerate(self._entries):
            ways = [_far(word, self._named[place], self._told[place], entry) for word in words]
            if None not in ways:
                total = sum(way for way in ways if way is not None)
                rank = total + _SECTIONS.get(entry.section, 0.0) + (_MOVES if entry.moves else 0)
                far.append((rank, place))
        return tuple(self._entries[place] for _, place in sorted(far))


def _asked(text: str) -> list[str]:
    words = text.casefold().split()
    return [word for word in words if word not in _SMALL_WORDS] or words


def _far(word: str, named: frozenset[str], told: frozenset[str], entry: Entry) -> int | None:
    """Tell how far a word is from an entry; ``None`` where the entry does not have it."""
    if word in named or word == entry.left.casefold():
        return _NAMED
    if any(each.startswith(word) for each in named):
        return _BEGINS
    if word in told:
        return _TOLD
    if any(each.startswith(word) for each in told):
        return _TOLD_BEGINS
    return _WITHIN if word in f"{entry.left} {entry.words} {entry.right}".casefold() else None

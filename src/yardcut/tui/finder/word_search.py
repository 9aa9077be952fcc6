"""Which entries some words find, the likeliest first; a word nobody knows is taken as the one it misspells."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from yardcut.core.near import nearest_value
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.finder.findable import vocabulary, words_of
from yardcut.tui.finder.leads import Entry

_SMALL_WORDS = frozenset(
    ["how", "do", "does", "can", "i", "a", "an", "the", "to", "my", "me", "want", "would", "like", "with", "for"]
)
_NAMED, _BEGINS, _TOLD, _TOLD_BEGINS, _WITHIN = 0, 2, 3, 5, 8
"""How far a word is from an entry: one of its names, the beginning of one, a word of what it tells, part of one."""

_MOST_WORDS = 12
"""What is asked has no more words; a page that was pasted is not looked for word by word."""

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
        self._ways: dict[str, dict[int, int]] = {}

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
        instead = [word if self._ways_of(word) else nearest_value(word, self._known) or "" for word in words]
        near = [word for word in instead if word]
        return Found(self._with_all(near) if near else (), " ".join(near))

    def _with_all(self, words: Sequence[str]) -> tuple[Entry, ...]:
        ways = [self._ways_of(word) for word in words]
        far = []
        for place in set.intersection(*map(set, ways)):
            entry = self._entries[place]
            rank = sum(way[place] for way in ways) + _SECTIONS.get(entry.section, 0.0) + (_MOVES if entry.moves else 0)
            far.append((rank, place))
        return tuple(self._entries[place] for _, place in sorted(far))

    def _ways_of(self, word: str) -> dict[int, int]:
        """Return how far a word is from the entries that have it, by their place; what was asked once is kept."""
        if word not in self._ways:
            far = (_far(word, *each) for each in zip(self._named, self._told, self._entries, strict=True))
            self._ways[word] = {place: way for place, way in enumerate(far) if way is not None}
        return self._ways[word]

    @cached_property
    def _known(self) -> list[str]:
        return vocabulary(self._entries)


def _asked(text: str) -> list[str]:
    words = list(dict.fromkeys(text.casefold().split()))
    return ([word for word in words if word not in _SMALL_WORDS] or words)[:_MOST_WORDS]


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

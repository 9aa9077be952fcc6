"""An order in words: which end of each key comes first, and where rows without a value go."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.values.kinds import Kind

_ENDS = {
    Kind.TEXT: ("first to last", "last to first"),
    Kind.BOOLEAN: ("false first", "true first"),
    Kind.INTEGER: ("low to high", "high to low"),
    Kind.NUMBER: ("low to high", "high to low"),
    Kind.DATE: ("oldest first", "newest first"),
    Kind.TIMESTAMP: ("oldest first", "newest first"),
    Kind.INSTANT: ("oldest first", "newest first"),
    Kind.TIME: ("earliest first", "latest first"),
}


def direction_of(key: t.SortKey, kind: Kind) -> str:
    """Say which end of a key comes first."""
    if key.sequence:
        named = ", ".join(map(side_text, reversed(key.sequence) if key.descending else key.sequence))
        return f"in the sequence {named}" if not key.descending else f"others first, then {named}"
    return _ENDS[kind][key.descending]


def ways_of(key: t.SortKey) -> str:
    """Say how a key compares texts, where not by their characters."""
    ways = [(key.ignoring_case, "ignoring case"), (key.number_aware, "by the numbers in it")]
    return ", ".join(said for wanted, said in ways if wanted)


def key_in_words(key: t.SortKey, kind: Kind) -> str:
    """Say all of a key: what it is by, which end comes first, where rows without a value go."""
    ways = ways_of(key)
    missing = "missing first" if key.nulls_first else "missing last"
    return ", ".join(filter(None, (side_text(key.value), direction_of(key, kind), ways, missing)))


_MONTHS = "january february march april may june july august september october november december"
_DAYS = "monday tuesday wednesday thursday friday saturday sunday"
_CALENDARS = tuple(
    [name[:length] for name in names.split()] for names in (_MONTHS, _DAYS) for length in (len(names), 3)
)


def calendar_sequence(values: tuple[str, ...]) -> tuple[str, ...]:
    """Return texts in the sequence of the calendar where all of them are months or weekdays, else none.

    Capitals do not count; at least three must be there, so that a "may" or "sat" alone means nothing.

    >>> calendar_sequence(('mar', 'jan', 'feb'))
    ('jan', 'feb', 'mar')
    """
    for names in _CALENDARS:
        places = {name: place for place, name in enumerate(names)}
        if len(values) >= 3 and all(value.strip().casefold() in places for value in values):
            return tuple(sorted(values, key=lambda value: (places[value.strip().casefold()], value)))
    return ()


def in_sequence(key: t.SortKey, values: tuple[str, ...]) -> t.SortKey:
    """Return a key whose values come in a sequence of one's own."""
    return replace(key, sequence=tuple(t.Text(value) for value in values), number_aware=False)

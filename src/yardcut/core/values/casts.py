"""Which kinds can be cast to which others (ISO/IEC 9075-2, 6.13)."""

from __future__ import annotations

from yardcut.core.values.kinds import Kind

_FROM: dict[Kind, frozenset[Kind]] = {
    Kind.TEXT: frozenset(Kind),
    Kind.INTEGER: frozenset({Kind.TEXT, Kind.INTEGER, Kind.NUMBER, Kind.BOOLEAN}),
    Kind.NUMBER: frozenset({Kind.TEXT, Kind.INTEGER, Kind.NUMBER, Kind.BOOLEAN}),
    Kind.BOOLEAN: frozenset({Kind.TEXT, Kind.BOOLEAN}),
    Kind.DATE: frozenset({Kind.TEXT, Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT}),
    Kind.TIMESTAMP: frozenset({Kind.TEXT, Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT}),
    Kind.INSTANT: frozenset({Kind.TEXT, Kind.INSTANT}),
    Kind.TIME: frozenset({Kind.TEXT, Kind.TIME, Kind.TIMESTAMP, Kind.INSTANT}),
}


def can_cast(kind: Kind, to: Kind) -> bool:
    """Tell whether values of a kind can be cast to another."""
    return kind in _FROM[to]

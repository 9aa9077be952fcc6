"""The kinds a column can have."""

from __future__ import annotations

from enum import StrEnum


class Kind(StrEnum):
    """What a column holds. Kinds are written as words everywhere, never as signs."""

    TEXT = "text"
    INTEGER = "integer"
    NUMBER = "number"
    BOOLEAN = "boolean"
    DATE = "date"
    TIMESTAMP = "timestamp"
    INSTANT = "instant"
    TIME = "time"

    @property
    def is_numeric(self) -> bool:
        """True for the kinds arithmetic works on."""
        return self in (Kind.INTEGER, Kind.NUMBER)

    @property
    def is_temporal(self) -> bool:
        """True for days and moments without a zone; instants, which have one, and times of day are comparable with none
        of them."""
        return self in (Kind.DATE, Kind.TIMESTAMP)


STORAGE_DTYPE: dict[Kind, str] = {
    Kind.INTEGER: "<i8",
    Kind.NUMBER: "<f8",
    Kind.BOOLEAN: "|u1",
    Kind.DATE: "<i4",  # days since 1970-01-01
    Kind.TIMESTAMP: "<i8",  # microseconds since 1970-01-01T00:00:00
    Kind.INSTANT: "<i8",  # microseconds since 1970-01-01T00:00:00Z
    Kind.TIME: "<i8",  # microseconds since midnight
}
"""The widest numpy dtype of each kind's values; text is stored as codes or as offsets and bytes."""


def comparable(left: Kind, right: Kind) -> bool:
    """Tell whether values of two kinds have an order between them.

    >>> comparable(Kind.DATE, Kind.TIMESTAMP), comparable(Kind.TEXT, Kind.INTEGER)
    (True, False)
    """
    if left == right:
        return True
    return (left.is_numeric and right.is_numeric) or (left.is_temporal and right.is_temporal)


def a_kind(kind: Kind) -> str:
    """Return a kind with its article."""
    article = "an" if kind.value[0] in "aeiou" else "a"
    return f"{article} {kind.value}"

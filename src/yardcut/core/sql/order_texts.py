"""The keys of an order in SQL."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sql.expression_texts import Writer, not_said
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class SortedBy:
    """One key in SQL, and which way it goes."""

    said: str
    descending: bool = False
    nulls_first: bool = False

    def text(self) -> str:
        """Write it."""
        down, first = "DESC" if self.descending else "ASC", "FIRST" if self.nulls_first else "LAST"
        return f"{self.said} {down} NULLS {first}"

    def turned(self) -> SortedBy:
        """Return the key that orders the other way round."""
        return SortedBy(self.said, not self.descending, not self.nulls_first)


def keys_in_sql(keys: Sequence[b.Key], writer: Writer) -> list[SortedBy]:
    """Write the keys of a line. Raises ``NotSaidError``."""
    found = []
    for key in keys:
        if isinstance(key.value, b.Call) and key.value.function in ("FOLD", "AS NUMBERS"):
            word = "IGNORING CASE" if key.value.function == "FOLD" else "NUMBER AWARE"
            raise not_said(f"an order {word}", "databases have none just like it")
        by = writer.dialect.code_points if key.value.kind is Kind.TEXT else ""
        found.append(SortedBy(writer.value(key.value) + by, key.descending, key.nulls_first))
    return found


def order_in_sql(keys: Sequence[b.Key], writer: Writer) -> list[SortedBy]:
    """Write the keys of an order line: a constant orders nothing here, and would be a column's number there.

    Raises ``NotSaidError``.
    """
    return [by for key, by in zip(keys, keys_in_sql(keys, writer), strict=True) if columns_of(key.value)]


def ordered_by(order: Sequence[SortedBy]) -> str:
    """Write an order behind ORDER BY."""
    return ", ".join(key.text() for key in order)

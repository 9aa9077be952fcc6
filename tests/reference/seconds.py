"""Columns that stand elsewhere: brought by key, of the first match or of every one, or of the nearest earlier row."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from reference.functions import compared, midnight
from reference.kinds import Row, Table
from reference.reading import Node, Reader
from reference.values import any_value


@dataclass
class Latest:
    """The column of the second table that holds times, and the value here that is not before them."""

    there: int
    here: Node


class Bring:
    """A bring line, read clause by clause."""

    def __init__(self, reader: Reader, table: Table) -> None:
        self.table = table
        self.wanted = [] if reader.take("ALL") else list(reader.several(lambda: _item(reader)))
        reader.need("FROM")
        self.other: Table = table.seconds[reader.second()]
        reader.need("BY")
        self.latest: Latest | None = None
        self.keys: list[tuple[Node, int]] = []
        for _ in iter(lambda: self._key(reader), False):
            pass
        self.only = (reader.any_of("MATCHED", "UNMATCHED") if reader.peek(1)[1].lower() == "only" else "").lower()
        reader.take("ONLY")
        self.how = reader.any_of("FIRST", "EVERY").lower()
        reader.take("MATCH")
        if not self.wanted:
            keys = {key for _, key in self.keys} | ({self.latest.there} if self.latest is not None else set())
            self.wanted = [(name, name) for name, key in self.other.shown if key not in keys]

    def _key(self, reader: Reader) -> bool:
        """Read one key; tell whether another follows."""
        if reader.next_is("LATEST"):
            reader.need("LATEST")
            moment = self.other.find(reader.column())
            reader.need("<=")
            self.latest = Latest(moment, reader.value())
            return reader.take(",")
        here = reader.value()
        there = reader.column() if reader.take("=") else here
        self.keys.append((here, self.other.find(there)))
        return reader.take(",")

    def matches(self, row: Row) -> list[Row]:
        """Return the rows of the second table that a row finds."""
        own = [any_value(here, row, self.table) for here, _ in self.keys]
        if None in own:
            return []
        found = [
            other
            for other in self.other.rows
            if all(
                other.values[key] is not None and compared("=", mine, other.values[key], False)
                for mine, (_, key) in zip(own, self.keys, strict=True)
            )
        ]
        return found if self.latest is None else self._nearest(found, row)

    def _nearest(self, found: list[Row], row: Row) -> list[Row]:
        assert self.latest is not None
        now = any_value(self.latest.here, row, self.table)
        if now is None:
            return []
        earlier = [(other.values[self.latest.there], other) for other in found]
        earlier = [(time, other) for time, other in earlier if time is not None and compared("<=", time, now, False)]
        return [max(earlier, key=lambda pair: _in_line(pair[0]))[1]] if earlier else []


def brought(reader: Reader, table: Table) -> Table:
    """Return the table with the columns of another one."""
    line = Bring(reader, table)
    fresh = {max(table.kinds) + 1 + place: pair for place, pair in enumerate(line.wanted)}
    source = {key: line.other.find(("name", there)) for key, (there, _) in fresh.items()}
    rows = []
    for row in table.rows:
        found = line.matches(row)
        assert len(found) < 2 or line.how, "a key stands there several times"
        if (line.only == "matched" and not found) or (line.only == "unmatched" and found):
            continue
        for number, other in enumerate(found if line.how == "every" and found else [*found, None][:1]):
            values = {key: None if other is None else other.values[there] for key, there in source.items()}
            copies = (*row.copies, number) if line.how == "every" else row.copies
            rows.append(Row(row.values | values, row.source_row, copies))
    kinds = table.kinds | {key: line.other.kinds[there] for key, there in source.items()}
    columns = [(name, key) for key, (_, name) in fresh.items()]
    return replace(table, rows=rows, kinds=kinds, shown=[*table.shown, *columns], known=[*table.known, *columns])


def _item(reader: Reader) -> tuple[str, str]:
    there = reader.column()[1]
    return there, reader.column()[1] if reader.take("AS") else there


def _in_line(value: Any) -> Any:
    return midnight(value) if hasattr(value, "year") else value

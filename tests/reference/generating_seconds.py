"""Random lines about a second table: rows that stand in it, and columns brought from it."""

from __future__ import annotations

from typing import Any

from reference.generating import Generator, quoted

SECOND, LIST = "second.csv", "asked.txt"
"""The files' names beside the rows: a table with the same columns, and a plain list of texts."""
ASKED = ["oak", "Oak", "yew", "R2", "N-4", "nobody", "3", "10", "2.5", "oak", "2031-03-01"]
_KEYS = {"id": "integer", "word": "text", "code": "text", "Odd Name": "text", "small": "integer", "price": "number", "day": "date",
         "flag": "boolean", "clock": "time", "at": "timestamp"}  # fmt: skip


class SecondGenerator:
    """Makes the lines of a cut with a second table in it."""

    def __init__(self, seed: int, folder: str) -> None:
        self.of = Generator(seed)
        self.second, self.asked = f"{folder}/{SECOND}", f"{folder}/{LIST}"

    def cut(self) -> list[str]:
        """Return up to two lines, one about the second table, and up to two below."""
        of = self.of
        above = [of.line() for _ in range(of.pick(0, 0, 1, 2))]
        own = [of.pick(self.keep, self.bring)()]
        return [*above, *own, *(of.line() for _ in range(of.pick(0, 0, 1, 2)))]

    def keep(self) -> str:
        """Return a line that looks into it."""
        of, turned, ignoring = self.of, self.of.pick("", "NOT "), ""
        if of.maybe(0.3):
            left, where = (
                of.pick(
                    of.name("text"), of.name("integer"), of.name("number"), of.name("date"), f"UPPER({of.name('text')})"
                ),
                f'"{self.asked}"',
            )
        else:
            names = of.chance.sample(sorted(_KEYS), of.pick(1, 1, 2, 3))
            sides = [
                of._inside(_KEYS[name]) if _KEYS[name] != "boolean" and of.maybe(0.2) else quoted(name)
                for name in names
            ]
            left = sides[0] if len(sides) == 1 else f"({', '.join(sides)})"
            there = quoted(names[0]) if len(names) == 1 else f"({', '.join(map(quoted, names))})"
            where = f'"{self.second}" column {there}'
            ignoring = " IGNORING CASE" if {_KEYS[name] for name in names} == {"text"} and of.maybe(0.4) else ""
        piece = f"{left} {turned}IN {where}{ignoring}"
        if of.maybe(0.3):
            piece = f"{piece} {of.pick('AND', 'OR')} {of.piece(1)}"
        return f"{of.pick('keep', 'drop')} {piece}"

    def bring(self) -> str:
        """Return a line that brings columns."""
        of = self.of
        names: list[Any] = of.chance.sample(
            ["word", "code", "small", "price", "day", "real", "clock"], of.pick(1, 2, 3)
        )
        items = []
        for name in names:
            of.made += 1
            items.append(f"{name} AS b{of.made}")
        if of.maybe(0.25):
            keys, how = ["id"], of.pick("", " first match", " every match")
        else:
            keys = of.chance.sample(sorted(_KEYS), of.pick(1, 1, 2))
            how = of.pick(" first match", " every match")
        written = []
        for name in keys:
            here = of._inside(_KEYS[name]) if _KEYS[name] != "boolean" and of.maybe(0.15) else quoted(name)
            written.append(quoted(name) if here == quoted(name) and of.maybe() else f"{here} = {quoted(name)}")
        if of.maybe(0.2):
            written, how = (
                [
                    *(written if "id" not in keys else ["word"]),
                    f"latest id <= {of.pick('id', 'small', of.name('integer'))}",
                ],
                "",
            )
        return f'bring {", ".join(items)} from "{self.second}" by {", ".join(written)}{of.pick("", "", " matched only", " unmatched only")}{how}'

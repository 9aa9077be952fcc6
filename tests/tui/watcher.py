"""Reads every figure on the screen, and compares it with plain truth."""

from __future__ import annotations

import re

from tui.driving import Driven
from tui.plain_truth import LINES, Row, left_by

LIST_CELLS = 46


class Watcher:
    """Reads every figure on the screen and compares it with the truth of the list as it is now."""

    def __init__(self, app: Driven, rows: list[Row]) -> None:
        self.app = app
        self.all = self.rows = rows
        self.seen: dict[str, int] = dict.fromkeys(("left", "line", "gauge", "rows", "prompt", "ends", "written"), 0)

    @property
    def texts(self) -> list[str]:
        desk = self.app.app._main.stage.desk  # type: ignore[attr-defined]
        return [line.text for line in desk.now.cut.lines] if desk is not None else []

    def first(self, said: str) -> list[Row]:
        """Return the rows that figures are of: all, unless it is said that they are of the first so far."""
        found = re.search(r"so far,? (?:of the first )?([\d,]+) rows", said)
        return self.all[: int(found[1].replace(",", ""))] if found else self.all

    def as_of(self, label: str, rows: list[Row]) -> list[Row]:
        """Return the rows a label names."""
        found = re.search(r"line (\d+)", label)
        index = int(found[1]) if found else 0
        before, after = left_by(rows, self.texts[: index - 1]), left_by(rows, self.texts[:index])
        if label.startswith("offcut"):
            kept = {row["n"] for row in after}
            return [row for row in before if row["n"] not in kept]
        return after if found else rows

    def check(self) -> None:
        lines = self.app.screen().splitlines()
        self.rows = self.first(lines[0])
        self._header(lines[0])
        self._list(lines)
        self._gauge(lines)
        self._prompt("\n".join(lines[-8:]))

    def _saw(self, what: str, shown: object, true: object) -> None:
        self.seen[what] += 1
        assert shown == true, f"{what}: {shown} is shown, {true} is true\n{self.texts}\n{self.app.screen()}"

    def _header(self, line: str) -> None:
        found = re.search(r"([\d,]+) rows? left", line)
        if found:
            self._saw("left", found[1], f"{len(left_by(self.rows, self.texts)):,}")

    def _list(self, lines: list[str]) -> None:
        for line in lines:
            found = re.match(r".\s?(\d+) (\w+) .*?\s([\d,]+)\s*$", line[:LIST_CELLS])
            if found and found[2] in ("keep", "drop", "order", "draw", "make", "bring", "columns"):
                number = int(found[1])
                if number <= len(self.texts) and self.texts[number - 1].split()[0] == found[2]:
                    self._saw("line", found[3], f"{len(left_by(self.rows, self.texts[:number])):,}")

    def _gauge(self, lines: list[str]) -> None:
        said = "\n".join(lines[-8:])
        for place, line in enumerate(lines):
            found = re.match(
                r" (\w+)  (\w+) \d+  (the source|as of line \d+|offcut of line \d+|as line \d+ would leave it)",
                line[LIST_CELLS:],
            )
            if not found:
                continue
            if found[3].startswith("as line"):
                if "the table: as it would be" not in said:
                    return
                self.seen["written"] += 1
                rows = shown = self._would_leave(said)
            else:
                rows, shown = self.as_of(found[3], self.first(line)), self.as_of(found[3], self.rows)
            name = found[1]
            values = [row[name] for row in rows if row.get(name) is not None]
            if found[3].startswith("as line") and not re.search(r"[\d,]+ values", lines[place + 1]):
                return  # still being counted
            counts = re.search(r"([\d,]+) values? · ([\d,]+) missing .*?· ([\d,]+) distinct", lines[place + 1])
            assert counts, lines[place + 1]
            true = (len(values), len(rows) - len(values), len(set(values)))
            self._saw("gauge", counts.groups(), tuple(f"{count:,}" for count in true))
            ends = re.search(r"least (\S+) .* most (\S+)", lines[place + 2])
            if ends:
                self._saw("ends", (float(ends[1]), float(ends[2])), (min(values), max(values)))  # type: ignore[type-var]
            self._rows(lines[4:place], self._in_the_table(said, shown))
            return

    def _in_the_table(self, said: str, rows: list[Row]) -> list[Row] | None:
        """Return the rows of the table: those the line being written would leave, where the prompt says so."""
        if "the table: as it would have been before" in said:
            return None
        if "the table: as it would be" in said:
            return self._would_leave(said)
        return rows

    def _would_leave(self, said: str) -> list[Row]:
        found = re.search(r"cut ▸ (.+?)\s*\n.*\(as line (\d+)\)", said, re.DOTALL)
        assert found, said
        return LINES[found[1]](left_by(self.rows, self.texts[: int(found[2]) - 1]))

    def _rows(self, lines: list[str], rows: list[Row] | None) -> None:
        if rows is None:
            return
        shown = [re.match(r".\s*([\d,]+)\s+([\d,]+) ", line[LIST_CELLS:]) for line in lines]
        for found in filter(None, shown):
            position, source = (int(part.replace(",", "")) for part in found.groups())
            true = rows[position - 1]["n"] if position <= len(rows) else None
            self._saw("rows", source, true)

    def _prompt(self, said: str) -> None:
        prompt = re.search(r"cut ▸ (.+?)\s*\n", said)
        found = re.search(r"would leave ([\d,]+) of ([\d,]+).*\(as line (\d+)\)", said)
        if prompt and found and prompt[1] in LINES:
            before = left_by(self.rows, self.texts[: int(found[3]) - 1])
            true = (f"{len(LINES[prompt[1]](before)):,}", f"{len(before):,}")
            self._saw("prompt", (found[1], found[2]), true)

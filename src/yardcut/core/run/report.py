"""The report of a run: each line's rows in and out, for people and as JSON."""

from __future__ import annotations

import datetime
from dataclasses import dataclass, field
from typing import Any

from yardcut.core.run.results import LineResult


@dataclass(slots=True)
class LineReport:
    """One line of a cut, what reached it and what it left."""

    number: int
    text: str
    off: bool
    rows_in: int
    rows_out: int
    taken_unknown: int
    notes: list[str]

    def sentence(self) -> str:
        """Say it in one line of text."""
        text = " ".join(self.text.split())
        if self.off:
            return f"{self.number:>3}  {text}  (off)"
        said = f"{self.number:>3}  {text}  {self.rows_in:,} → {self.rows_out:,}"
        if self.taken_unknown:
            said += f", {self.taken_unknown:,} of them for want of a value"
        return "".join([said, *(f"\n       {note}" for note in self.notes)])


@dataclass(slots=True)
class Report:
    """What a run of one cut met and did; ``notes`` are about the run as a whole."""

    source: str
    fingerprint: str
    cut: str
    rows: int
    columns: list[str]
    lines: list[LineReport] = field(default_factory=list)
    written: str | None = None
    rows_written: int | None = None
    notes: list[str] = field(default_factory=list)
    today: str = field(default_factory=lambda: datetime.date.today().isoformat())

    def add(self, result: LineResult) -> LineReport:
        """Report on one line."""
        line = LineReport(
            len(self.lines) + 1, result.line.line.text, result.line.off, result.before.rows.count, result.rows.count,
            result.unknown_taken, list(result.notes),
        )  # fmt: skip
        if result.line.bound is not None:
            line.notes += [f"hint: {hint}" for hint in result.line.bound.hints]
        self.lines.append(line)
        return line

    def as_json(self) -> dict[str, Any]:
        """Return the report as plain data."""
        from dataclasses import asdict

        return asdict(self)

"""The report of a run: each line's rows in and out, for people and as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Any

from yardcut.core.cutlist.notes import note_of
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.looked_up import LookedUp
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.source_report import file_entries
from yardcut.core.run.hinting.line_hints import quick_hints
from yardcut.core.shortening import shortened

_MOST_GROUPS = 1000

HINT = "hint: "
"""What a note begins with that is a hint."""


@dataclass(slots=True)
class LineReport:
    """One line of a cut, what reached it and what it left.

    ``groups`` are those of a draw that have rows, the first thousand; they are whole where that is all of them.
    ``looked_up`` says for each second table what was found there; of the keys that no row has, the first thousand.
    """

    number: int
    text: str
    off: bool
    rows_in: int
    rows_out: int
    taken_unknown: int
    notes: list[str]
    groups: list[str] = field(default_factory=list)
    groups_are_whole: bool = False
    comment: str = ""
    looked_up: list[dict[str, Any]] = field(default_factory=list)

    def tell_groups(self, labels: Sequence[str] | None) -> None:
        """Take the groups of its draw; ``None``: they are not known."""
        self.groups = list((labels or ())[:_MOST_GROUPS])
        self.groups_are_whole = labels is not None and len(labels) <= _MOST_GROUPS

    def sentence(self) -> str:
        """Say it in one line of text."""
        text = shortened(" ".join(self.text.split()))
        if self.comment and self.comment not in text:
            text = f"{text}   -- {self.comment}"
        if self.off:
            return f"{self.number:>3}  {text}  (off)"
        said = f"{self.number:>3}  {text}  {self.rows_in:,} → {self.rows_out:,}"
        if self.taken_unknown:
            said += f", {self.taken_unknown:,} of them for want of a value"
        return "".join([said, *(f"\n       {shortened(note)}" for note in self.notes)])


def _looked_up(looked: LookedUp) -> dict[str, Any]:
    return {
        "second": looked.matching.other.said, "is_list": looked.is_list, "matched": looked.matched,
        "unmatched": looked.unmatched, "without": looked.without, "several": looked.several, "keys": looked.keys,
        "not_there": len(looked.not_met), "twice": looked.twice,
        "not_there_first": [list(key) for key in looked.texts(looked.not_met[:_MOST_GROUPS])],
    }  # fmt: skip


@dataclass(slots=True)
class Report:
    """What a run of one cut met and did; ``notes`` are about the run as a whole.

    ``patterns`` are the columns that patterns met. ``files`` holds what each file was and what became of it,
    ``left_out`` those that could not be read, and ``met`` what was said of the source when it was opened. ``seed`` is
    that of lines that go by chance and name none, ``dials`` what each dial held;
    ``question`` is what stands above the cut, ``second_tables`` the files that lines looked into.
    """

    source: str
    fingerprint: str
    cut: str
    rows: int
    columns: list[str]
    lines: list[LineReport] = field(default_factory=list)
    written: str | None = None
    rows_written: int | None = None
    notes: list[str] = field(default_factory=list)
    files: list[dict[str, Any]] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    met: list[str] = field(default_factory=list)
    today: str = ""
    dials: dict[str, str] = field(default_factory=dict)
    seed: int | None = None
    files_written: list[str] = field(default_factory=list)
    question: str = ""
    patterns: dict[str, list[str]] = field(default_factory=dict)
    second_tables: list[dict[str, Any]] = field(default_factory=list)

    def add_second_tables(self, result: LineResult) -> None:
        """Name the files that a line looked into, each once, with what they were."""
        for looked in result.looked_up:
            other = looked.matching.other
            if other.table is not None and all(entry["fingerprint"] != other.mark for entry in self.second_tables):
                self.second_tables.append(
                    {"name": other.said, "fingerprint": other.mark, "rows": other.table.rows,
                     "files": file_entries(other.table)}
                )  # fmt: skip

    @property
    def not_there(self) -> list[str]:
        """What was asked for and is not there, one sentence a line that asked; a difference to be strict about."""
        return [
            f"line {line.number}: {looked['not_there']:,} of {looked['keys']:,} in {looked['second']} are not there"
            for line in self.lines
            for looked in line.looked_up
            if looked["is_list"] and looked["not_there"]
        ]

    def add(self, result: LineResult) -> LineReport:
        """Report on one line."""
        line = LineReport(
            len(self.lines) + 1, result.line.line.text, result.line.off, result.before.rows.count, result.rows.count,
            result.unknown_taken, list(result.notes), comment=note_of(result.line.line),
        )  # fmt: skip
        line.tell_groups([group.label for group in result.strata])
        line.looked_up = [_looked_up(looked) for looked in result.looked_up]
        self.add_second_tables(result)
        line.notes += [f"{HINT}{hint.says}" for hint in quick_hints(result)]
        self.lines.append(line)
        return line

    @property
    def warnings(self) -> list[str]:
        """What somebody who reads one line only must know: files left out, and a cut that leaves nothing."""
        said = list(self.left_out)
        if not self.rows:
            said.append("nothing is left: the source has no rows")
        taking = next((line for line in self.lines if line.rows_in and not line.rows_out and not line.off), None)
        if taking is not None and self.lines and not self.lines[-1].rows_out:
            text = shortened(" ".join(taking.text.split()))
            rows = "the last row" if taking.rows_in == 1 else f"all {taking.rows_in:,} rows"
            said.append(f"nothing is left: line {taking.number} took {rows}: {text}")
        return said

    def as_json(self) -> dict[str, Any]:
        """Return the report as plain data, with the version of the program that says so."""
        from dataclasses import asdict
        from importlib.metadata import version

        return asdict(self) | {"version": version("yardcut")}

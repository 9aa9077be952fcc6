"""What a run met that an earlier one did not: columns, patterns, lines that do another thing, groups that are gone."""

from __future__ import annotations

from typing import Any

from yardcut.core.run.explaining.pattern_matches import pattern_differences
from yardcut.core.run.explaining.report import LineReport, Report
from yardcut.core.table.stored_column import UNREAD

_MOST_NAMED = 8


def differences(earlier: dict[str, Any], report: Report) -> list[str]:
    """Say what is different from an earlier report, as :func:`read_report` gives it; one sentence each."""
    before = dict(column.rsplit(" ", 1) for column in earlier["columns"])
    now = dict(column.rsplit(" ", 1) for column in report.columns)
    said = [f"the column {name} is gone" for name in before if name not in now]
    said += [f"the column {name} is new" for name in now if name not in before]
    said += [
        f"the column {name} was {before[name]} and is {kind} now"
        for name, kind in now.items()
        if name in before and before[name] != kind and UNREAD not in (before[name], kind)
    ]
    said += pattern_differences(report.patterns, earlier.get("patterns", {}))
    known = {_words(line["text"]): line for line in earlier.get("lines", [])}
    for line in report.lines:
        former = known.get(_words(line.text))
        if former is not None and not line.off and not former["off"]:
            said += _of_line(line, former)
    return said


def _words(text: str) -> str:
    return " ".join(text.split())


def _of_line(line: LineReport, former: dict[str, Any]) -> list[str]:
    """Say where a line that took some rows now takes all or none, and which of its groups have no row any more."""
    said = []
    rows_in, rows_out = former["rows_in"], former["rows_out"]
    name = f"line {line.number} ({_words(line.text)})"
    if 0 < rows_out < rows_in and line.rows_in:
        took = f"last time it took {rows_in - rows_out:,} of {rows_in:,}"
        if line.rows_out == 0:
            said.append(f"{name} takes all {line.rows_in:,} rows now; {took}")
        elif line.rows_out == line.rows_in:
            said.append(f"{name} takes no row now; {took}")
    gone = [group for group in former["groups"] if group not in set(line.groups)]
    if gone and line.groups_are_whole:
        more = f" and {len(gone) - _MOST_NAMED:,} more" if len(gone) > _MOST_NAMED else ""
        said.append(f"{name}: no row any more of {', '.join(gone[:_MOST_NAMED])}{more}")
    return said

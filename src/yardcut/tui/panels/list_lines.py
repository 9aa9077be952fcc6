"""What the list panel says, as lines of styled text: no widget, no drawing."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.cells import cell_len

from yardcut.tui.panels.list_state import ListState, PanelLine, Run
from yardcut.tui.text import clean, fit, wrap
from yardcut.tui.widgets.bars import GONE, SAW, SOLID, plank

if TYPE_CHECKING:
    from yardcut.core.cutlist.model import Line
    from yardcut.core.run.tree_counts import Branch

_NUMBER, _VERB, _COUNT = 3, 8, 12


def panel_lines(state: ListState, width: int) -> list[PanelLine]:
    """Return the panel's lines: the source, each line with its bar, and the selected line in full below."""
    found = _source(state, width)
    for index, line in enumerate(state.lines):
        found += _entry(state, index, line, width)
    if not state.lines:
        found += [
            PanelLine(()),
            *_said("no lines yet: w writes one, . keeps the rows with a cell's value", width, "dim"),
        ]
    found.append(PanelLine((("─" * (width - 1), "rule"),)))
    return found + _in_full(state, width)


def _row(
    number: str, verb: str, phrase: str, count: str, width: int, styles: tuple[str, str, str], entry: int
) -> PanelLine:
    room = max(4, width - _NUMBER - 1 - _VERB - _COUNT)
    return PanelLine(
        (
            (f"{number:>{_NUMBER - 1}} ", "number"),
            (fit(verb, _VERB), styles[0]),
            (fit(phrase, room), styles[1]),
            (f"{count:>{_COUNT}}", styles[2]),
        ),
        entry,
    )


def _bar(left: int, taken: int, total: int, width: int, note: Run, entry: int) -> PanelLine:
    room = max(4, width - _NUMBER - 1 - _COUNT)
    solid, saw, gone = plank(left, taken, total, room)
    return PanelLine(
        (
            (" " * _NUMBER, "number"),
            (SOLID * solid, "plank"),
            (SAW * saw, "saw"),
            (GONE * gone, "gone"),
            (f"{note[0]:>{_COUNT}}", note[1]),
        ),
        entry,
    )


def _source(state: ListState, width: int) -> list[PanelLine]:
    rows = state.source_rows
    count = "…" if rows is None else f"{rows:,}"
    lines = [_row("", "source", clean(state.source), count, width, ("verb", "phrase", "count"), -1)]
    if rows is not None:
        lines.append(_bar(rows, 0, rows, width, ("", "dim"), -1))
    return lines


def _entry(state: ListState, index: int, line: Line, width: int) -> list[PanelLine]:
    words = clean(" ".join(line.text.split()))
    if line.is_off:
        words = words[3:].lstrip()
    verb, _, phrase = words.partition(" ")
    number = str(index + 1)
    if line.is_off:
        return [_row(number, verb, phrase, "off", width, ("off", "off", "dim"), index)]
    if state.wrong is not None and index == state.wrong[0]:
        head = _row(number, verb, phrase, "wrong", width, ("verb", "phrase", "error"), index)
        return [head, *_said(clean(str(state.wrong[1].message)), width, "error", index)]
    if index >= len(state.results):
        count = "waits" if state.wrong is not None else "…"
        return [_row(number, verb, phrase, count, width, ("verb", "phrase", "dim"), index)]
    result = state.results[index]
    lines = [_row(number, verb, phrase, f"{result.rows.count:,}", width, ("verb", "phrase", "count"), index)]
    if verb in ("keep", "drop", "draw") or result.taken:
        taken = (f"−{result.taken:,}", "saw") if result.taken else ("none taken", "dim")
        lines.append(_bar(result.rows.count, result.taken, state.source_rows or 0, width, taken, index))
    if result.unknown_taken:
        lines += _said(f"{result.unknown_taken:,} of them for want of a value", width, "none", index)
    if verb == "order" and result.line.bound is not None:
        lines += _said(_order_sentence(phrase), width, "dim", index)
    elif verb == "columns":
        lines += _said(f"{len(result.shown)} columns", width, "dim", index)
    elif verb == "save":
        lines += _said("ctrl+s writes the slice", width, "dim", index)
    return lines


def _order_sentence(phrase: str) -> str:
    if phrase.lower().startswith(("as read", "at random")):
        return phrase
    keys = [key.strip() for key in phrase.split(" -- ")[0].split(",")]
    said = [re.sub(r"(?i)\s+DESC\b", " downwards", re.sub(r"(?i)\s+ASC\b", "", key)) for key in keys]
    said = [re.sub(r"(?i)\s+NULLS\s+FIRST", ", missing first", re.sub(r"(?i)\s+NULLS\s+LAST", "", key)) for key in said]
    return "first by " + ", then by ".join(said)


def _said(text: str, width: int, style: str, entry: int | None = None) -> list[PanelLine]:
    indent = " " * _NUMBER
    return [PanelLine(((indent, "number"), (part, style)), entry) for part in wrap(text, max(8, width - _NUMBER - 1))]


def _in_full(state: ListState, width: int) -> list[PanelLine]:
    if not 0 <= state.selected < len(state.lines):
        return _said("the source as it was read", width, "dim")
    line = state.lines[state.selected]
    found = [PanelLine(((f" line {state.selected + 1} ", "verb"), ("in full", "dim")))]
    if len(state.tree) > 1:
        found += _tree(state.tree, width)
    else:
        for part in _broken(clean(line.text)):
            found += _said(part, width, "phrase")
    comment = [clean(part.strip()) for part in line.leading.splitlines() if part.strip()]
    for part in comment:
        found += _said(part, width, "dim")
    if state.selected < len(state.results):
        result = state.results[state.selected]
        for note in result.notes:
            found += _said(clean(note), width, "none")
        if result.line.bound is not None:
            for hint in result.line.bound.hints:
                found += _said(f"! {clean(hint)}", width, "hint")
    if state.wrong is not None and state.wrong[0] == state.selected:
        found += _said(clean(str(state.wrong[1])), width, "error")
    return found


def _broken(text: str) -> list[str]:
    """Break a condition before AND and OR, where they stand outside quotes."""
    parts = re.split(r"""\s+(?=(?:AND|OR)\s)(?=(?:[^']*'[^']*')*[^']*$)""", " ".join(text.split()), flags=re.IGNORECASE)
    found: list[str] = []
    for part in parts:
        if found and re.search(r"(?i)\bBETWEEN\b(?!.*\bAND\b)", found[-1]) and part.upper().startswith("AND"):
            found[-1] += f" {part}"
        else:
            found.append(part)
    return [found[0], *(f"  {part}" for part in found[1:])]


def _tree(tree: Sequence[Branch], width: int) -> list[PanelLine]:
    largest = max((max(branch.passes, branch.costs or 0) for branch in tree), default=0)
    numbers = max(10, len(f"{largest:,}") + 2)  # a blank and a minus before each
    lines = [
        PanelLine(
            ((" " * max(0, width - 2 * numbers - 1), "dim"), (f"{'passes':>{numbers}}{'costs':>{numbers}}", "dim"))
        )
    ]
    for branch in tree:
        lead = " " * _NUMBER + "│ " * max(0, branch.depth - 1) + ("├ " if branch.depth else "")
        room = max(6, width - 1 - 2 * numbers - cell_len(lead))
        costs = "" if branch.costs is None else f"−{branch.costs:,}" if branch.costs else "nothing"
        style = "dim" if branch.text in ("all of", "any of", "not") else "phrase"
        parts = wrap(clean(branch.text), room)
        lines.append(
            PanelLine(
                (
                    (lead, "gone"),
                    (fit(parts[0], room), style),
                    (f"{branch.passes:>{numbers},}", "count"),
                    (f"{costs:>{numbers}}", "saw"),
                )
            )
        )
        lines += [PanelLine(((" " * cell_len(lead) + "  ", "gone"), (part, style))) for part in parts[1:]]
    return lines

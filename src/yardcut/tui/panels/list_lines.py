"""What the list panel says, as lines of styled text: no widget, no drawing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.cells import cell_len

from yardcut.core.language.bound import ColumnValue, Made
from yardcut.core.language.lines import broken, phrase
from yardcut.core.language.verbs.verb import Effect
from yardcut.core.run.hints import rows_lost_to_not
from yardcut.tui.panels.list_state import ListState, PanelLine, Run
from yardcut.tui.text import clean, fit, plural, wrap
from yardcut.tui.widgets.bars import GONE, SAW, SOLID, plank

if TYPE_CHECKING:
    from yardcut.core.run.binding import BoundLine
    from yardcut.core.run.results import LineResult
    from yardcut.core.run.tree_counts import Branch

_NUMBER, _VERB, _COUNT = 3, 8, 12
_ROOM_FOR_SECOND = 12
_MOST_NAMED = 3


def panel_lines(state: ListState, width: int, height: int = 0) -> list[PanelLine]:
    """Return the panel's lines: the source, each line with its bar, and the selected line in full below.

    Where the height leaves room for it, a phrase that would be clipped takes a second line.
    """
    found = _source(state, width)
    tall = height > 0 and height >= 3 * len(state.lines) + _ROOM_FOR_SECOND
    for index, line in enumerate(state.lines):
        found += _entry(state, index, line, width, tall)
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


def _rows(number: str, verb: str, said: str, count: str, width: int, entry: int, tall: bool) -> list[PanelLine]:
    """Return a line's head, its phrase on two lines where there is room and it needs them."""
    room = max(4, width - _NUMBER - 1 - _VERB - _COUNT)
    styles = ("verb", "phrase", "count")
    if not tall or cell_len(said) <= room:
        return [_row(number, verb, said, count, width, styles, entry)]
    parts = wrap(said, room)
    second = fit(" ".join(parts[1:]), max(4, width - _NUMBER - 1 - _VERB))
    indent = " " * (_NUMBER + _VERB)
    return [
        _row(number, verb, parts[0], count, width, styles, entry),
        PanelLine(((indent, "number"), (second, "phrase")), entry),
    ]


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


def _entry(state: ListState, index: int, line: BoundLine, width: int, tall: bool) -> list[PanelLine]:
    number = str(index + 1)
    verb = line.verb.word if line.verb is not None else ""
    said = clean(phrase(line.statement, line.line.text)) if line.statement is not None else clean(line.line.text)
    if line.off:
        return [_row(number, verb, said, "off", width, ("off", "off", "dim"), index)]
    if line.error is not None:
        head = _row(number, verb, said, "wrong", width, ("verb", "phrase", "error"), index)
        return [head, *_said(clean(line.error.message), width, "error", index)]
    if index >= len(state.results):
        wrong = any(other.error is not None for other in state.lines[:index])
        return [_row(number, verb, said, "waits" if wrong else "…", width, ("verb", "phrase", "dim"), index)]
    result = state.results[index]
    lines = _rows(number, verb, said, f"{result.rows.count:,}", width, index, tall)
    effect = line.verb.effect if line.verb is not None else None
    if effect is Effect.REMOVES or result.taken:
        taken = (f"−{result.taken:,}", "saw") if result.taken else ("none taken", "dim")
        lines.append(_bar(result.rows.count, result.taken, state.source_rows or 0, width, taken, index))
    if result.unknown_taken:
        lines += _said(for_want(result), width, "none", index)
    if effect is Effect.ARRANGES and line.statement is not None and line.verb is not None:
        lines += _said(clean(line.verb.said(line.statement.body)), width, "dim", index)
    elif effect is Effect.SHAPES:
        lines += _said(plural(len(result.shown), "column"), width, "dim", index)
    elif effect is Effect.WRITES:
        lines += _said("ctrl+s writes the slice", width, "dim", index)
    return lines


def for_want(result: LineResult) -> str:
    """Say how many rows a line removed for want of a value, and of which columns."""
    bound = result.line.bound
    names = (
        [column.name for column in bound.body.restricts() if isinstance(column, ColumnValue | Made)] if bound else []
    )
    listed = " or ".join(filter(None, [", ".join(names[:-1]), *names[-1:]]))
    where = f" in {clean(listed)}" if 0 < len(names) <= _MOST_NAMED else ""
    return f"{result.unknown_taken:,} of them for want of a value{where}"


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
        parts = [line.line.text] if line.statement is None else broken(line.statement, line.line.text)
        for place, part in enumerate(parts):
            found += _said(("  " if place else "") + clean(part), width, "phrase")
    comment = [clean(part.strip()) for part in line.line.leading.splitlines() if part.strip()]
    for part in comment:
        found += _said(part, width, "dim")
    if state.selected < len(state.results):
        result = state.results[state.selected]
        for note in (*result.notes, *state.unanswered):
            found += _said(clean(note), width, "none")
        lost = rows_lost_to_not(result)
        found += _said(f"! {clean(lost)}", width, "hint") if lost else []
    if line.bound is not None:
        for hint in line.bound.hints:
            found += _said(f"! {clean(hint)}", width, "hint")
    if line.error is not None:
        found += _said(clean(str(line.error)), width, "error")
    return found


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
